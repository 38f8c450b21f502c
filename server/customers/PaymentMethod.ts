import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, identity, reference, text, whole, table } from '../db/columns.ts';

/** A card held as the gateway's token, never as a number. A customer has at most one that is not replaced. */
export class PaymentMethod extends Model<
  InferAttributes<PaymentMethod>,
  InferCreationAttributes<PaymentMethod>
> {
  declare id: CreationOptional<string>;
  declare customerId: string;
  /** The gateway account that keeps the card and can charge it. */
  declare gatewayAccountId: string;
  declare gatewayToken: string;
  declare network: string;
  declare lastFour: string;
  declare expiresYear: number;
  declare expiresMonth: number;
  declare state: CreationOptional<'usable' | 'needs-customer' | 'barred' | 'replaced'>;
  declare addedOn: string;

  static setup(sequelize: Sequelize): void {
    PaymentMethod.init(
      {
        id: identity(),
        customerId: reference(),
        gatewayAccountId: reference(),
        gatewayToken: text(),
        network: text(),
        lastFour: text(),
        expiresYear: whole(),
        expiresMonth: whole(),
        state: { ...text(), defaultValue: 'usable' },
        addedOn: date(),
      },
      table(sequelize, 'payment_methods'),
    );
  }
}
