import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { flag, identity, instantOrNone, json, table, text, textOrNone, whole } from '../db/columns.ts';
import type { Delivery, NoticeKind, Role } from './messages.ts';

/** Somebody who may sign in. One who has left stays on record, since the audit names them. */
export class Person extends Model<InferAttributes<Person>, InferCreationAttributes<Person>> {
  declare id: CreationOptional<string>;
  declare name: string;
  declare email: string;
  declare role: Role;
  declare passwordHash: CreationOptional<string | null>;
  /** The sealed secret of the second factor; it counts only when `secondFactorOn`. */
  declare secondFactor: CreationOptional<string | null>;
  declare secondFactorOn: CreationOptional<boolean>;
  /** The time step of the last code used, so that none is used twice. */
  declare lastFactorStep: CreationOptional<string | null>;
  declare notices: CreationOptional<Partial<Record<NoticeKind, Delivery>>>;
  declare version: CreationOptional<number>;
  declare leftAt: CreationOptional<Date | null>;

  static setup(sequelize: Sequelize): void {
    Person.init(
      {
        id: identity(),
        name: text(),
        email: text(),
        role: text(),
        passwordHash: textOrNone(),
        secondFactor: textOrNone(),
        secondFactorOn: { ...flag(), defaultValue: false },
        lastFactorStep: { type: DataTypes.BIGINT, allowNull: true },
        notices: { ...json(), defaultValue: {} },
        version: { ...whole(), defaultValue: 1 },
        leftAt: instantOrNone(),
      },
      table(sequelize, 'people'),
    );
  }
}
