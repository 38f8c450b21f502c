import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import {
  date,
  dateOrNone,
  flag,
  identity,
  instantOrNone,
  json,
  table,
  text,
  textOrNone,
  whole,
} from '../db/columns.ts';
import type { AccountFacts } from './facts.ts';

/** An account at a gateway that this business has connected. Its secrets are sealed. */
export class GatewayAccount extends Model<
  InferAttributes<GatewayAccount>,
  InferCreationAttributes<GatewayAccount>
> {
  declare id: CreationOptional<string>;
  declare address: string;
  declare account: string;
  declare name: string;
  declare kind: 'card gateway' | 'bank debit gateway';
  declare publicKey: string;
  declare secretKey: string;
  declare webhookSecret: CreationOptional<string | null>;
  declare earlierWebhookSecret: CreationOptional<string | null>;
  declare earlierUntil: CreationOptional<Date | null>;
  declare connectedBy: 'hand-over' | 'pasted key' | 'environment';
  declare connectedOn: string;
  declare disconnectedOn: CreationOptional<string | null>;
  declare facts: AccountFacts;
  declare askedAt: CreationOptional<Date>;
  /** The instant that the facts are of: what a later webhook tells of an earlier one is not taken. */
  declare factsAt: CreationOptional<Date | null>;
  declare well: CreationOptional<boolean>;
  declare health: CreationOptional<string>;
  declare wellSince: CreationOptional<Date>;
  declare version: CreationOptional<number>;

  static setup(sequelize: Sequelize): void {
    const now = { type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW };
    GatewayAccount.init(
      {
        id: identity(),
        address: text(),
        account: text(),
        name: text(),
        kind: text(),
        publicKey: text(),
        secretKey: text(),
        webhookSecret: textOrNone(),
        earlierWebhookSecret: textOrNone(),
        earlierUntil: instantOrNone(),
        connectedBy: text(),
        connectedOn: date(),
        disconnectedOn: dateOrNone(),
        facts: json(),
        askedAt: { ...now },
        factsAt: instantOrNone(),
        well: { ...flag(), defaultValue: true },
        health: { ...text(), defaultValue: '' },
        wellSince: { ...now },
        version: { ...whole(), defaultValue: 1 },
      },
      table(sequelize, 'gateway_accounts'),
    );
  }
}
