import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, dateOrNone, identity, reference, referenceOrNone, text, table } from '../db/columns.ts';
import type { Channel } from '../payments/channel.ts';

/** The customer's recorded authority to charge a method: what was agreed, when, and from where. */
export class Mandate extends Model<InferAttributes<Mandate>, InferCreationAttributes<Mandate>> {
  declare id: CreationOptional<string>;
  declare paymentMethodId: string;
  declare agreedText: string;
  declare channel: Channel;
  declare givenOn: string;
  /** The version of the terms of service agreed to, where there was one. */
  declare policyId: CreationOptional<string | null>;
  /** The network address and the program that it was given from, where it was given here. */
  declare address: CreationOptional<string>;
  declare agent: CreationOptional<string>;
  /** When it was withdrawn, and by whom. */
  declare withdrawnOn: CreationOptional<string | null>;
  declare withdrawnBy: CreationOptional<string>;

  static setup(sequelize: Sequelize): void {
    Mandate.init(
      {
        id: identity(),
        paymentMethodId: reference(),
        agreedText: text(),
        channel: text(),
        givenOn: date(),
        policyId: referenceOrNone(),
        address: { ...text(), defaultValue: '' },
        agent: { ...text(), defaultValue: '' },
        withdrawnOn: dateOrNone(),
        withdrawnBy: { ...text(), defaultValue: '' },
      },
      table(sequelize, 'mandates'),
    );
  }
}
