import { DataTypes, type Model, type ModelAttributeColumnOptions } from 'sequelize';

/**
 * Column kinds that every model shares, made anew for each since Sequelize writes into them. Identities are
 * strings of digits, since JSON has no bigint.
 */
export const identity = (): ModelAttributeColumnOptions => ({
  type: DataTypes.BIGINT,
  primaryKey: true,
  autoIncrement: true,
  autoIncrementIdentity: true,
});
export const text = (): ModelAttributeColumnOptions => ({ type: DataTypes.TEXT, allowNull: false });
export const textOrNone = (): ModelAttributeColumnOptions => ({ type: DataTypes.TEXT, allowNull: true });
export const reference = (): ModelAttributeColumnOptions => ({ type: DataTypes.BIGINT, allowNull: false });
export const referenceOrNone = (): ModelAttributeColumnOptions => ({
  type: DataTypes.BIGINT,
  allowNull: true,
});
/** A civil business date, `YYYY-MM-DD`. */
export const date = (): ModelAttributeColumnOptions => ({ type: DataTypes.DATEONLY, allowNull: false });
export const dateOrNone = (): ModelAttributeColumnOptions => ({ type: DataTypes.DATEONLY, allowNull: true });
export const instantOrNone = (): ModelAttributeColumnOptions => ({ type: DataTypes.DATE, allowNull: true });
export const whole = (): ModelAttributeColumnOptions => ({ type: DataTypes.INTEGER, allowNull: false });
export const json = (): ModelAttributeColumnOptions => ({ type: DataTypes.JSONB, allowNull: false });
export const jsonOrNone = (): ModelAttributeColumnOptions => ({ type: DataTypes.JSONB, allowNull: true });
export const flag = (): ModelAttributeColumnOptions => ({ type: DataTypes.BOOLEAN, allowNull: false });

/** An amount in minor units of its row's currency: a bigint here and in the database. */
export function money(name: string): ModelAttributeColumnOptions {
  return {
    type: DataTypes.BIGINT,
    allowNull: false,
    get(this: Model) {
      // A change of other columns alone is checked by Sequelize as a row without this one.
      const value = this.getDataValue(name as never) as string | bigint | undefined;
      return value === undefined ? undefined : BigInt(value);
    },
  };
}

/** What `Model.init` takes beside the columns. */
export const table = (sequelize: import('sequelize').Sequelize, tableName: string) => ({
  sequelize,
  tableName,
  underscored: true,
  timestamps: false,
});
