import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, money, reference, text, table } from '../db/columns.ts';

/** Money that a subscription left to its customer when it ended: credit that none of its payments used up. */
export class CustomerCredit extends Model<
  InferAttributes<CustomerCredit>,
  InferCreationAttributes<CustomerCredit>
> {
  declare id: CreationOptional<string>;
  declare customerId: string;
  declare subscriptionId: string;
  declare currency: string;
  /** Minor units, more than nothing. */
  declare amount: bigint;
  declare keptOn: string;

  static setup(sequelize: Sequelize): void {
    CustomerCredit.init(
      {
        id: identity(),
        customerId: reference(),
        subscriptionId: reference(),
        currency: text(),
        amount: money('amount'),
        keptOn: date(),
      },
      table(sequelize, 'customer_credits'),
    );
  }
}
