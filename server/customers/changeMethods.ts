import { onDate, sentence } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { AccountTrouble, type GatewayPort } from '../gateways/port.ts';
import { RefusedCommand } from '../http/problem.ts';
import { saidCard, sayCard, writeAbout } from '../notices/occasions.ts';
import { methodsInTurn, nextMethod } from '../payments/methodsInTurn.ts';
import { followNewCard } from '../recovery/openCase.ts';
import { collectDebts, type MethodTaken } from '../recovery/newMethod.ts';
import { tellStaff } from '../staff/notices.ts';
import { lockedCustomer, lockedSubscription } from '../subscriptions/lock.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { replaced } from './keepMethod.ts';
import { Mandate } from './Mandate.ts';
import type { WithdrawalEffect } from './methodMessages.ts';
import { chargedOf, underWayOn } from './methods.sql.ts';
import { sayCheck } from './methods.ts';
import { IN_USE, PaymentMethod } from './PaymentMethod.ts';

/** A method of a customer that is in use, or a refusal. */
async function methodOf(customerId: string, id: string, within?: Transaction): Promise<PaymentMethod> {
  const method = await PaymentMethod.findOne({
    where: { id, customerId, state: IN_USE },
    ...(within ? { transaction: within } : {}),
  });
  if (!method) throw new RefusedCommand(404, 'There is no such method, or it is not in use any more.');
  return method;
}

/** Refuses for a bank account what only cards have. */
function requireCard({ kind }: PaymentMethod, says: string): void {
  if (kind !== 'card') throw new RefusedCommand(409, says);
}

/** Does something with a method of a customer whom nobody else changes meanwhile. */
function locked<T>(
  almanac: Almanac,
  customerId: string,
  methodId: string,
  work: (of: { method: PaymentMethod; customer: string; on: string }, within: Transaction) => Promise<T>,
): Promise<T> {
  return almanac.db.transaction(async (within) => {
    await methodOf(customerId, methodId, within);
    const { name: customer } = await lockedCustomer(customerId, within);
    const method = await methodOf(customerId, methodId, within);
    return work({ method, customer, on: await businessDateOf(almanac, within) }, within);
  });
}

/** Makes a method the primary one; the one that was becomes the fallback. */
export function makePrimary(almanac: Almanac, customerId: string, methodId: string): Promise<void> {
  return locked(almanac, customerId, methodId, async ({ method, customer, on }, within) => {
    if (method.role === 'primary') return;
    const others = await PaymentMethod.findAll({
      where: { customerId, role: ['primary', 'fallback'], state: IN_USE },
      transaction: within,
    });
    const fallback = others.find(({ id, role }) => role === 'fallback' && id !== methodId);
    if (fallback)
      throw new RefusedCommand(
        409,
        `There is a fallback already, ${sayCard(fallback)}: withdraw it first, or make it the primary one.`,
      );
    const former = others.find(({ role }) => role === 'primary');
    // One role at a time: no two methods ever have the same.
    await method.update({ role: 'own' }, { transaction: within });
    if (former) await former.update({ role: 'fallback' }, { transaction: within });
    await method.update({ role: 'primary' }, { transaction: within });
    await Subscription.update(
      { ownMethodId: null },
      { where: { ownMethodId: methodId }, transaction: within },
    );
    if (method.state === 'usable') await followNewCard(almanac, customerId, on, within);
    const after = { primary: sayCard(method), fallback: former ? sayCard(former) : null };
    await recordDone(almanac, { did: 'changed which method comes first', subject: customer, after }, within);
  });
}

/** Says which method a subscription is charged with before the customer's others; null: none of its own. */
export function setOwnMethod(
  almanac: Almanac,
  subscriptionId: string,
  methodId: string | null,
): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const found = await Subscription.findByPk(subscriptionId, { transaction: within });
    if (!found) throw new RefusedCommand(404, 'There is no such subscription.');
    const { name } = await lockedCustomer(found.customerId, within);
    const subscription = await lockedSubscription(subscriptionId, within);
    const method = methodId === null ? null : await methodOf(found.customerId, methodId, within);
    const before = subscription.ownMethodId;
    await subscription.update({ ownMethodId: method?.id ?? null }, { transaction: within });
    // What only some subscription named, and none does any more, is kept: it can be named again.
    if (method?.state === 'usable')
      await followNewCard(
        almanac,
        found.customerId,
        await businessDateOf(almanac, within),
        within,
        subscriptionId,
      );
    await recordDone(
      almanac,
      {
        did: 'chose the method of a subscription',
        subject: name,
        before: { method: before },
        after: { method: method ? sayCard(method) : 'that of the customer' },
      },
      within,
    );
  });
}

/** What withdrawing the mandate for a method does, before it is done. */
export async function effectOfWithdrawing(
  almanac: Almanac,
  customerId: string,
  methodId: string,
): Promise<WithdrawalEffect> {
  return effectOn(almanac, await methodOf(customerId, methodId));
}

async function effectOn(
  almanac: Almanac,
  method: PaymentMethod,
  within?: Transaction,
): Promise<WithdrawalEffect> {
  const { customerId } = method;
  const goesOn: { plan: string; with: string }[] = [];
  const left = new Set<string>();
  for (const { plan, ownMethodId } of await chargedOf(almanac, customerId, within)) {
    const methods = await methodsInTurn({ customerId, ownMethodId }, within);
    if (!methods.some(({ id }) => id === method.id)) continue;
    const other = await nextMethod(methods, new Set([method.id]), within);
    if (other === null) left.add(plan);
    else goesOn.push({ plan, with: sayCard(other) });
  }
  const fallback =
    method.role === 'primary'
      ? await PaymentMethod.findOne({
          where: { customerId, role: 'fallback', state: IN_USE },
          ...(within ? { transaction: within } : {}),
        })
      : null;
  return {
    ...{ card: sayCard(method), goesOn, left: [...left] },
    primary: fallback && sayCard(fallback),
    underWay: await underWayOn(almanac, method.id, within),
  };
}

/**
 * Withdraws the mandate for a method: it is never charged again. What was sent to the gateway before is asked about still. A
 * fallback becomes the primary one; both sides are told.
 * @param by who withdraws it
 */
export function withdrawMandate(
  almanac: Almanac,
  customerId: string,
  methodId: string,
  by: 'staff' | 'customer',
): Promise<WithdrawalEffect> {
  return locked(almanac, customerId, methodId, async ({ method, customer, on }, within) => {
    const effect = await effectOn(almanac, method, within);
    const wasPrimary = method.role === 'primary';
    await replaced(method, within);
    await Mandate.update(
      { withdrawnOn: on, withdrawnBy: by },
      { where: { paymentMethodId: methodId, withdrawnOn: null }, transaction: within },
    );
    if (wasPrimary)
      await PaymentMethod.update(
        { role: 'primary' },
        {
          where: { customerId, role: 'fallback', state: IN_USE },
          transaction: within,
        },
      );
    await tellOfWithdrawal(almanac, { method, customer, on, by, effect }, within);
    const done = {
      did: 'withdrew a mandate',
      subject: customer,
      before: { card: effect.card },
      after: { by },
    };
    await recordDone(almanac, done, within);
    return effect;
  });
}

async function tellOfWithdrawal(
  almanac: Almanac,
  of: {
    readonly method: PaymentMethod;
    readonly customer: string;
    readonly on: string;
    readonly by: 'staff' | 'customer';
    readonly effect: WithdrawalEffect;
  },
  within: Transaction,
): Promise<void> {
  const { method, customer, on, by, effect } = of;
  const subscription = await Subscription.findOne({
    where: { customerId: method.customerId },
    order: [['id', 'desc']],
    transaction: within,
  });
  const onceKey = `mandate withdrawn:${method.id}:${on}`;
  if (subscription)
    await writeAbout(
      almanac,
      subscription,
      {
        ...{ event: 'mandate withdrawn', onceKey },
        reason: `${by === 'staff' ? 'Staff' : 'The customer'} withdrew a mandate`,
        says: {
          card: saidCard(method),
          date: onDate(on),
          next:
            effect.left.length === 0 ? '' : sentence('not charged until', { plans: effect.left.join(', ') }),
        },
      },
      on,
      within,
    );
  const without = effect.left.length === 0 ? '' : ` Nothing is left to charge for ${effect.left.join(', ')}.`;
  await tellStaff(
    almanac,
    {
      ...{ kind: 'mandate revoked', onceKey, writtenOn: on },
      subject: `${customer}: the mandate for ${effect.card} was withdrawn`,
      says: `The mandate of ${customer} for ${effect.card} was withdrawn by ${by === 'staff' ? 'staff' : 'the customer'}.${without}`,
    },
    within,
  );
}

/** Asks the gateway to authorise zero with a method, and keeps what it answered; what only its holder can mend is marked. */
export async function checkMethod(
  almanac: Almanac,
  customerId: string,
  methodId: string,
): Promise<{ readonly good: boolean; readonly says: string }> {
  const method = await methodOf(customerId, methodId);
  requireCard(
    method,
    'Only a debit tells whether a bank account can be debited: there is no check without one.',
  );
  const on = await businessDateOf(almanac);
  const code = await atGateway(almanac, method, (gateway) => gateway.check(method.gatewayToken, on));
  await locked(almanac, customerId, methodId, async ({ method: now, customer }, within) => {
    await now.update({ checkedOn: on, checkCode: code }, { transaction: within });
    const meaning = code === '00' ? null : meaningOf(code);
    if (meaning?.class === 'never') await now.update({ state: 'barred' }, { transaction: within });
    else if (meaning?.class === 'ask' && now.state === 'usable')
      await now.update({ state: 'needs-customer' }, { transaction: within });
    else if (meaning === null && now.state === 'needs-customer') await mended(almanac, now, on, within);
    const after = { card: sayCard(now), answer: sayCheck(code).says };
    await recordDone(almanac, { did: 'checked a method', subject: customer, after }, within);
  });
  return sayCheck(code);
}

/** A method can be charged again: open cases go by it. */
export async function mended(
  almanac: Almanac,
  method: PaymentMethod,
  on: string,
  within: Transaction,
): Promise<void> {
  await method.update({ state: 'usable' }, { transaction: within });
  if (method.role !== 'own') return followNewCard(almanac, method.customerId, on, within);
  const naming = await Subscription.findAll({
    where: { ownMethodId: method.id },
    order: ['id'],
    transaction: within,
  });
  for (const { id } of naming) await followNewCard(almanac, method.customerId, on, within, id);
}

/**
 * Takes another expiry for a card whose number stays: the gateway is told, and checks it; then what is owed is charged to it at
 * once, as with any card that is updated.
 */
export async function changeExpiry(
  almanac: Almanac,
  customerId: string,
  methodId: string,
  to: { readonly expiresYear: number; readonly expiresMonth: number },
): Promise<MethodTaken> {
  const method = await methodOf(customerId, methodId);
  requireCard(method, 'A bank account has no expiry.');
  const on = await businessDateOf(almanac);
  if (hasExpired(to, on))
    throw new RefusedCommand(
      422,
      'That month is over: give the one that is printed on the new card.',
      '/expires',
    );
  if (method.state === 'barred')
    throw new RefusedCommand(409, 'This card is never charged again, whatever its expiry: take another.');
  const card = await atGateway(almanac, method, (gateway) => gateway.changeExpiry(method.gatewayToken, to));
  const code = await atGateway(almanac, method, (gateway) => gateway.check(method.gatewayToken, on));
  await locked(almanac, customerId, methodId, async ({ method: now, customer }, within) => {
    const { expiresYear, expiresMonth } = card;
    const before = { expires: `${now.expiresMonth}/${now.expiresYear}` };
    await now.update({ expiresYear, expiresMonth, checkedOn: on, checkCode: code }, { transaction: within });
    if (code === '00') await mended(almanac, now, on, within);
    const after = { expires: `${expiresMonth}/${expiresYear}` };
    await recordDone(
      almanac,
      { did: 'changed the expiry of a card', subject: customer, before, after },
      within,
    );
  });
  const charged =
    code === '00'
      ? await collectDebts(
          almanac,
          { customerId, channel: 'staff', methodId },
          `expiry ${methodId} ${to.expiresYear}-${to.expiresMonth} ${on}`,
          on,
          'new method',
        )
      : [];
  return { card: `${sayCard(method)}, ${to.expiresMonth}/${to.expiresYear}`, charged };
}

/** Asks the account that keeps a method about it; a refusal where it cannot be asked or knows nothing of it. */
async function atGateway<T>(
  almanac: Almanac,
  method: PaymentMethod,
  ask: (gateway: GatewayPort) => Promise<T | null>,
): Promise<T> {
  const account = await GatewayAccount.findByPk(method.gatewayAccountId, { rejectOnEmpty: true });
  if (account.disconnectedOn !== null)
    throw new RefusedCommand(
      409,
      `${account.name} keeps this card and is disconnected: see Setup, Gateways.`,
    );
  try {
    const answer = await ask(almanac.gateways.of(account));
    if (answer === null) throw new RefusedCommand(404, `${account.name} does not know this card any more.`);
    return answer;
  } catch (error) {
    if (!(error instanceof AccountTrouble)) throw error;
    throw new RefusedCommand(
      503,
      'The gateway does not answer just now. Nothing was changed; try again in a minute.',
    );
  }
}
