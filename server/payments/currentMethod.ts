import type { Transaction } from 'sequelize';
import { PaymentMethod } from '../customers/PaymentMethod.ts';

/** The customer's card in use, whatever its state, or null. */
export function currentMethod(customerId: string, within?: Transaction): Promise<PaymentMethod | null> {
  return PaymentMethod.findOne({
    where: { customerId, state: ['usable', 'needs-customer', 'barred'] },
    ...(within ? { transaction: within } : {}),
  });
}
