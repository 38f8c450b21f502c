import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow, type Asker } from '../audit/asker.ts';
import { followNewCard } from '../recovery/openCase.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import type { Channel } from '../payments/channel.ts';
import { primaryMethod } from '../payments/methodsInTurn.ts';
import type { FoundMethod } from './findMethod.ts';
import { Mandate } from './Mandate.ts';
import type { MethodRole } from './methodMessages.ts';
import { IN_USE, PaymentMethod } from './PaymentMethod.ts';

/** How a method is given: through whom, by which words, and what it is to be. */
interface Given {
  readonly channel: Channel;
  readonly agreedText: string;
  readonly on: string;
  readonly policyId: string | null;
  readonly role?: MethodRole;
  /** Who gives it; absent: whoever asks now. */
  readonly asker?: Asker | undefined;
}

/**
 * Keeps a card or a bank account as a method of a customer, and records the mandate: what was agreed, when, and from where. It takes the place
 * of the one that had its role; the first that a customer has is the primary one whatever it was given as. Given the
 * same again it only makes it usable once more.
 */
export async function keepMethod(
  almanac: Almanac,
  customerId: string,
  found: FoundMethod,
  given: Given,
  within: Transaction,
): Promise<PaymentMethod> {
  // Two cards given at once are taken one after the other: the later one is in use.
  await lockedCustomer(customerId, within);
  const { token, accountId: gatewayAccountId, checkCode, ...rest } = found;
  const primary = await primaryMethod(customerId, within);
  const isPrimary = primary === null || primary.gatewayToken === token;
  const role = isPrimary ? 'primary' : (given.role ?? 'primary');
  if (role !== 'own') await letGo(customerId, role, within);
  const check = checkCode === undefined ? {} : { checkedOn: given.on, checkCode };
  const facts = { ...rest, gatewayAccountId, role, ...check };
  const known = await PaymentMethod.findOne({
    where: { customerId, gatewayToken: token },
    transaction: within,
  });
  const method = known
    ? await known.update({ state: 'usable', ...facts }, { transaction: within })
    : await PaymentMethod.create(
        { customerId, gatewayToken: token, ...facts, state: 'usable', addedOn: given.on },
        { transaction: within },
      );
  await Mandate.create(mandateFor(method, given), { transaction: within });
  if (role !== 'own') await followNewCard(almanac, customerId, given.on, within);
  return method;
}

/** Whatever had a role is replaced, also where a subscription named it. */
async function letGo(customerId: string, role: MethodRole, within: Transaction): Promise<void> {
  const former = await PaymentMethod.findOne({
    where: { customerId, role, state: IN_USE },
    transaction: within,
  });
  if (former) await replaced(former, within);
}

/** A method is charged no more, by any subscription. */
export async function replaced(method: PaymentMethod, within: Transaction): Promise<void> {
  await method.update({ state: 'replaced' }, { transaction: within });
  await Subscription.update(
    { ownMethodId: null },
    { where: { ownMethodId: method.id }, transaction: within },
  );
}

/**
 * Keeps the first methods of customers who were written down in this very transaction: nothing of theirs is looked for, and
 * all of it is two statements.
 */
export async function keepFirstMethods(
  all: readonly { readonly customerId: string; readonly found: FoundMethod; readonly given: Given }[],
  within: Transaction,
): Promise<PaymentMethod[]> {
  if (all.length === 0) return [];
  const methods = await PaymentMethod.bulkCreate(
    all.map(({ customerId, found, given }) => {
      const { token, accountId, checkCode, ...facts } = found;
      const check = checkCode === undefined ? {} : { checkedOn: given.on, checkCode };
      return {
        ...{ customerId, gatewayToken: token, gatewayAccountId: accountId, ...facts, ...check },
        ...{ role: 'primary' as const, state: 'usable' as const, addedOn: given.on },
      };
    }),
    { transaction: within, returning: true },
  );
  await Mandate.bulkCreate(
    all.flatMap(({ given }, i) => (methods[i] ? [mandateFor(methods[i], given)] : [])),
    { transaction: within },
  );
  return methods;
}

/** A mandate for a method: what was agreed to, and from where; the browser of whoever gives it, or of the staff who type it in. */
function mandateFor({ id }: PaymentMethod, { agreedText, channel, on, policyId, asker }: Given) {
  const { address, agent } = asker ?? askerNow();
  return {
    ...{ paymentMethodId: id, agreedText, channel, givenOn: on, policyId },
    ...{ address, agent: agent.slice(0, 300) },
  };
}
