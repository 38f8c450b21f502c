import { money, onDate } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { writeAbout } from '../notices/occasions.ts';
import { raiseNeedAgain } from '../run/needs.ts';
import { firstCharge } from '../subscriptions/firstCharge.ts';
import { lawFactsOf, loadLaw } from '../subscriptions/law.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import {
  askFactsOf,
  CALLED_AFTER,
  onceInVain,
  onceOfRequest,
  openOf,
  REMINDED_AFTER,
  type AskFacts,
} from './askForMethod.sql.ts';
import { Customer } from './Customer.ts';
import { linkForLetter, linkToken } from './link.ts';
import { whyNotAsked, type NotAsked } from './mayBeAsked.ts';
import type { MethodRequest } from './messages.ts';

const WHY: Readonly<Record<NotAsked, string>> = {
  'nothing to charge': 'nothing that runs is charged by itself',
  'has a card': 'there is a card that can be charged',
  'asked today': 'asked today already',
};

/** Whom a request would be written to, and who is left out, with why. Nothing is done. */
export async function effectOfAsking(
  almanac: Almanac,
  customerIds: readonly string[],
): Promise<MethodRequest> {
  const businessDate = await businessDateOf(almanac);
  return present(await askFactsOf(almanac, customerIds, businessDate));
}

/** Asks customers for a way to pay, as far as they may be asked: each gets a letter with a link to their own page. */
export async function askForMethods(
  almanac: Almanac,
  customerIds: readonly string[],
): Promise<MethodRequest> {
  const businessDate = await businessDateOf(almanac);
  return almanac.db.transaction(async (within) => {
    // In the order of their numbers, as everybody locks them; whoever asks at the same time finds them asked.
    for (const { customerId } of await askFactsOf(almanac, customerIds, businessDate, within))
      await lockedCustomer(customerId, within);
    const facts = await askFactsOf(almanac, customerIds, businessDate, within);
    const asked = facts.filter((one) => whyNotAsked(one) === null);
    for (const { customerId } of asked) await askForMethod(almanac, customerId, businessDate, within);
    await recordDone(
      almanac,
      {
        did: 'asked for a way to pay',
        subject: asked.length === 1 ? (asked[0]?.customer ?? '') : `${asked.length} customers`,
        after: { customers: asked.map(({ customer }) => customer) },
      },
      within,
    );
    return present(facts);
  });
}

function present(facts: readonly AskFacts[]): MethodRequest {
  const left = facts.flatMap((one) => {
    const why = whyNotAsked(one);
    return why === null ? [] : [{ customer: one.customer, why: WHY[why] }];
  });
  return { asked: facts.length - left.length, left };
}

/**
 * Asks one customer, for the newest of what they subscribe to: the letter is written, and reminders follow until there is
 * a method.
 */
export async function askForMethod(
  almanac: Almanac,
  customerId: string,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  await noteAsked(customerId, businessDate, within);
  await writeRequest(almanac, { customerId, askedOn: businessDate, after: 0 }, businessDate, within);
}

/** A customer is waited for from this day on: we asked them for a method, or whoever hands them the link does. */
export async function noteAsked(
  customerId: string,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  await Customer.update({ methodAskedOn: businessDate }, { where: { id: customerId }, transaction: within });
}

/** Reminds a customer of the way to pay that was asked for; at last somebody is to call. */
export function remindOfMethod(almanac: Almanac, customerId: string, businessDate: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const { methodAskedOn: askedOn, name } = await lockedCustomer(customerId, within);
    if (askedOn === null) return;
    const days = toDay(businessDate) - toDay(askedOn);
    const after = REMINDED_AFTER.findLast((one) => one <= days);
    if (days >= CALLED_AFTER)
      await raiseNeedAgain(almanac, within, {
        onceKey: onceInVain(customerId),
        arose: businessDate,
        kind: 'no way to pay',
        says: `${name} was asked for a way to pay on ${sayDate(askedOn)} and has given none. Nothing is charged meanwhile.`,
        subscriptionId: (await subscriptionToAsk(customerId, within))?.id ?? null,
        customerId,
      });
    else if (after !== undefined)
      await writeRequest(almanac, { customerId, askedOn, after }, businessDate, within);
  });
}

/** The newest of what a customer subscribes to that is charged by itself. */
function subscriptionToAsk(customerId: string, within: Transaction): Promise<Subscription | null> {
  return Subscription.findOne({
    where: {
      ...{ customerId, collects: 'automatic' },
      state: ['scheduled', 'trial', 'active', 'overdue', 'paused'],
    },
    order: [['id', 'desc']],
    transaction: within,
  });
}

async function writeRequest(
  almanac: Almanac,
  {
    customerId,
    askedOn,
    after,
  }: { readonly customerId: string; readonly askedOn: string; readonly after: number },
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const subscription = await subscriptionToAsk(customerId, within);
  if (!subscription) return;
  const law = await loadLaw(almanac, within);
  const facts = await lawFactsOf(almanac, subscription.id, within);
  const next = firstCharge(law.compile(facts), businessDate);
  const open = await openOf(almanac, customerId, businessDate, within);
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'mandate request',
      onceKey: onceOfRequest(customerId, askedOn, after),
      reason: after === 0 ? 'A way to pay was asked for' : 'A way to pay was asked for, and none was given',
      linkId: (await linkForLetter(subscription, businessDate, within)).id,
      says: {
        date: onDate(askedOn),
        amount: next === null ? '' : money(next.due, subscription.terms.currency),
        next: next === null ? '' : onDate(formatDay(next.dueOn)),
        owed: { all: open.map(({ owed, currency }) => money(BigInt(owed), currency)), joined: 'and' },
        how: after === 0 ? 'first' : 'again',
      },
    },
    businessDate,
    within,
  );
}

/** A link by which a customer gives a card, for staff to hand on: it acts as the customer does, for thirty days. */
export function linkToHandOn(
  almanac: Almanac,
  subscriptionId: string,
): Promise<{ readonly path: string; readonly until: string }> {
  return almanac.db.transaction(async (within) => {
    const businessDate = await businessDateOf(almanac, within);
    const subscription = await Subscription.findByPk(subscriptionId, { transaction: within });
    if (!subscription) throw new RefusedCommand(404, 'There is no such subscription.');
    const { customerId } = subscription;
    const { name } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
    const link = await linkForLetter(subscription, businessDate, within);
    await recordDone(almanac, { did: 'took a customer’s link to hand it on', subject: name }, within);
    return { path: `/own/${linkToken(almanac, link.id, 'own')}`, until: link.expiresOn };
  });
}
