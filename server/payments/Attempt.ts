import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, instantOrNone, money, reference, text, textOrNone, table } from '../db/columns.ts';
import type { Channel } from './channel.ts';
import type { AttemptReason } from './attemptReason.ts';

/** One try at a payment. Its key is stored before the gateway is called, and sent again until the outcome is known. */
export class Attempt extends Model<InferAttributes<Attempt>, InferCreationAttributes<Attempt>> {
  declare id: CreationOptional<string>;
  declare invoiceId: string;
  declare paymentMethodId: string;
  declare idempotencyKey: string;
  declare amount: bigint;
  declare reason: AttemptReason;
  declare channel: Channel;
  declare state: 'pending' | 'collected' | 'declined';
  declare responseCode: CreationOptional<string | null>;
  declare gatewayCharge: CreationOptional<string | null>;
  declare attemptedOn: string;
  declare settledAt: CreationOptional<Date | null>;

  static setup(sequelize: Sequelize): void {
    Attempt.init(
      {
        id: identity(),
        invoiceId: reference(),
        paymentMethodId: reference(),
        idempotencyKey: text(),
        amount: money('amount'),
        reason: text(),
        channel: text(),
        state: text(),
        responseCode: textOrNone(),
        gatewayCharge: textOrNone(),
        attemptedOn: date(),
        settledAt: instantOrNone(),
      },
      table(sequelize, 'attempts'),
    );
  }
}
