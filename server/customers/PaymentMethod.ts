import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { date, dateOrNone, identity, reference, text, textOrNone, whole, table } from '../db/columns.ts';
import type { MethodKind, MethodRole } from './methodMessages.ts';

/** The states of a method that is not replaced or withdrawn, whether or not it can be charged just now. */
export const IN_USE = ['usable', 'needs-customer', 'barred'] as const;

/**
 * A card or a bank account held as the gateway's token, never as a number. Of those that are not replaced a customer has at most one primary
 * and one fallback; others are charged for the subscriptions that name them.
 */
export class PaymentMethod extends Model<
  InferAttributes<PaymentMethod>,
  InferCreationAttributes<PaymentMethod>
> {
  declare id: CreationOptional<string>;
  declare customerId: string;
  /** The gateway account that keeps it and can charge it. */
  declare gatewayAccountId: string;
  declare gatewayToken: string;
  declare network: string;
  declare lastFour: string;
  /** Of a card; a bank account has no expiry. */
  declare expiresYear: number | null;
  declare expiresMonth: number | null;
  /** What was paid by online transfer stands under a method too, one that is never in use. */
  declare kind: CreationOptional<MethodKind | 'online transfer'>;
  /** Whose card or account it is, where that was asked for. */
  declare holder: CreationOptional<string>;
  declare state: CreationOptional<'usable' | 'needs-customer' | 'barred' | 'replaced'>;
  declare role: CreationOptional<MethodRole>;
  declare addedOn: string;
  /** When the gateway was last asked to authorise zero, and its ISO 8583 code. */
  declare checkedOn: CreationOptional<string | null>;
  declare checkCode: CreationOptional<string | null>;

  static setup(sequelize: Sequelize): void {
    PaymentMethod.init(
      {
        id: identity(),
        customerId: reference(),
        gatewayAccountId: reference(),
        gatewayToken: text(),
        network: text(),
        lastFour: text(),
        expiresYear: { ...whole(), allowNull: true },
        expiresMonth: { ...whole(), allowNull: true },
        kind: { ...text(), defaultValue: 'card' },
        holder: { ...text(), defaultValue: '' },
        state: { ...text(), defaultValue: 'usable' },
        role: { ...text(), defaultValue: 'primary' },
        addedOn: date(),
        checkedOn: dateOrNone(),
        checkCode: textOrNone(),
      },
      table(sequelize, 'payment_methods'),
    );
  }
}
