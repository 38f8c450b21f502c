import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { DataTypes } from 'sequelize';
import { date, dateOrNone, flag, identity, json, table, text, whole } from '../db/columns.ts';
import type { SignUpPageValue } from './messages.ts';

/** A page on which customers join by themselves. */
export class SignUpPage extends Model<InferAttributes<SignUpPage>, InferCreationAttributes<SignUpPage>> {
  declare id: CreationOptional<string>;
  /** Its part of the address. */
  declare key: string;
  declare version: CreationOptional<number>;
  /** Who changed it last; empty: nobody has. */
  declare changedBy: CreationOptional<string>;
  declare value: Omit<SignUpPageValue, 'key' | 'places'>;
  declare isOn: CreationOptional<boolean>;
  /** How many may join; null: any number. */
  declare places: number | null;
  declare madeOn: string;
  declare archivedOn: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    SignUpPage.init(
      {
        id: identity(),
        key: text(),
        version: { ...whole(), defaultValue: 1 },
        changedBy: { ...text(), defaultValue: '' },
        value: json(),
        isOn: { ...flag(), defaultValue: false },
        places: { type: DataTypes.INTEGER, allowNull: true },
        madeOn: date(),
        archivedOn: dateOrNone(),
      },
      table(sequelize, 'sign_up_pages'),
    );
  }
}
