import type { Transaction } from 'sequelize';
import { IN_USE, PaymentMethod } from '../customers/PaymentMethod.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';

/** Whose methods are asked for: those of a subscription. */
export type Charged = Pick<Subscription, 'customerId' | 'ownMethodId'>;

/**
 * The methods that a subscription is charged with, whatever their state, in the order in which they are tried: its own, the
 * customer's primary one, the fallback (see `inTurn` for the same in statements).
 */
export async function methodsInTurn(
  { customerId, ownMethodId }: Charged,
  within?: Transaction,
): Promise<PaymentMethod[]> {
  const methods = await PaymentMethod.findAll({
    where: { customerId, state: IN_USE },
    ...(within ? { transaction: within } : {}),
  });
  const turnOf = ({ id, role }: PaymentMethod) =>
    id === ownMethodId ? 1 : role === 'primary' ? 2 : role === 'fallback' ? 3 : null;
  return methods
    .filter((one) => turnOf(one) !== null)
    .toSorted((a, b) => (turnOf(a) ?? 0) - (turnOf(b) ?? 0));
}

/**
 * The method that is charged next: the first that is usable and was not tried yet. One whose account the business has
 * disconnected comes after all others: charges to it wait.
 * @param methods in their turn
 * @param tried those that were tried already, by their ids
 */
export async function nextMethod(
  methods: readonly PaymentMethod[],
  tried: ReadonlySet<string>,
  within?: Transaction,
): Promise<PaymentMethod | null> {
  const left = methods.filter(({ id, state }) => state === 'usable' && !tried.has(id));
  const [first] = left;
  if (left.length < 2 || !first) return first ?? null;
  const accounts = await GatewayAccount.findAll({
    where: { id: left.map(({ gatewayAccountId }) => gatewayAccountId), disconnectedOn: null },
    ...(within ? { transaction: within } : {}),
  });
  return left.find(({ gatewayAccountId }) => accounts.some(({ id }) => id === gatewayAccountId)) ?? first;
}

/** The method that a subscription's next charge goes to: the next that can be tried, or else the first there is. */
export async function methodInUse(of: Charged, within?: Transaction): Promise<PaymentMethod | null> {
  const methods = await methodsInTurn(of, within);
  return (await nextMethod(methods, new Set(), within)) ?? methods[0] ?? null;
}

/** A customer's primary method, whatever its state, or null. */
export function primaryMethod(customerId: string, within?: Transaction): Promise<PaymentMethod | null> {
  return PaymentMethod.findOne({
    where: { customerId, role: 'primary', state: IN_USE },
    ...(within ? { transaction: within } : {}),
  });
}
