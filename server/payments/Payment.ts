import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, money, reference, text, table } from '../db/columns.ts';

/** One movement of money towards an invoice. */
export class Payment extends Model<InferAttributes<Payment>, InferCreationAttributes<Payment>> {
  declare id: CreationOptional<string>;
  declare invoiceId: string;
  declare attemptId: string;
  declare amount: bigint;
  declare currency: string;
  declare paidOn: string;

  static setup(sequelize: Sequelize): void {
    Payment.init(
      {
        id: identity(),
        invoiceId: reference(),
        attemptId: reference(),
        amount: money('amount'),
        currency: text(),
        paidOn: date(),
      },
      table(sequelize, 'payments'),
    );
  }
}
