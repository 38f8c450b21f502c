import type { Transaction } from 'sequelize';
import { toDay } from '../../core/dates/day.ts';
import { NO_METHOD, type DeclineClass, type DeclineMeaning } from '../../core/recovery/declineCodes.ts';
import { follow, openStanding } from '../../core/recovery/stepOfCase.ts';
import type { Almanac } from '../almanac.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import { raiseNeedAgain, settleNeeds } from '../run/needs.ts';
import { standOverdue } from '../subscriptions/stand.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { chooseLadder } from './chooseLadder.ts';
import { Ladder } from './Ladder.ts';
import { triesOf } from './looked.ts';
import { RecoveryCase } from './RecoveryCase.ts';
import { againFrom, askedAt, climbedBy, columnsOf, standingOf } from './standing.ts';

/**
 * Opens a recovery case for an invoice that could not be collected, or adds the invoice to the case that the
 * subscription already has (a subscription has at most one open). The class of a case follows the latest answer.
 * @param of the subscription is locked by the caller
 * @param meaning of the decline; null where the card in use was not tried at all
 */
export async function openOrJoinCase(
  almanac: Almanac,
  of: { readonly subscription: Subscription; readonly invoice: Invoice },
  meaning: DeclineMeaning | null,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const { subscription, invoice } = of;
  const open = await RecoveryCase.findOne({
    where: { subscriptionId: subscription.id, state: 'open' },
    transaction: within,
    lock: within.LOCK.UPDATE,
  });
  if (open) {
    await invoice.update({ caseId: open.id }, { transaction: within });
    if (meaning) await followAnswer(almanac, { open, subscription, meaning, businessDate }, within);
    return;
  }
  if (subscription.state === 'lapsed') return; // Its case has been given up; the debt stays payable by hand.

  const known = meaning ?? { ...NO_METHOD, says: 'the card needs its holder' };
  const ladder = await chooseLadder({ subscription, invoice, declineClass: known.class }, within);
  const climbed = await climbedBy(almanac, ladder, within);
  const again = await againFrom(almanac, businessDate, within);
  const standing = openStanding(climbed, known.class, toDay(businessDate), again);
  const opened = await RecoveryCase.create(
    {
      ...{ subscriptionId: subscription.id, ladderId: ladder.id, state: 'open', openedOn: businessDate },
      ...columnsOf(standing),
      ...askedAt(standing, climbed, again),
    },
    { transaction: within },
  );
  await invoice.update({ caseId: opened.id }, { transaction: within });
  await standOverdue(subscription, within);
  await askForCard(almanac, { open: opened, subscription, meaning: known, businessDate }, within);
}

interface Following {
  readonly open: RecoveryCase;
  readonly subscription: Subscription;
  readonly meaning: DeclineMeaning;
  readonly businessDate: string;
}

/** The case is of the class of the latest answer: a bank that is away is asked again, whatever was before. */
async function followAnswer(almanac: Almanac, following: Following, within: Transaction): Promise<void> {
  const { open, meaning, businessDate } = following;
  await followClass(almanac, open, meaning.class, businessDate, within);
  await askForCard(almanac, following, within);
}

/** Keeps how a locked case stands that has come to be of a class. */
async function followClass(
  almanac: Almanac,
  open: RecoveryCase,
  declineClass: DeclineClass,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const ladder = await Ladder.findByPk(open.ladderId, { transaction: within, rejectOnEmpty: true });
  const climbed = await climbedBy(almanac, ladder, within);
  const again = await againFrom(almanac, businessDate, within);
  const { begun } = await triesOf(almanac, { opened: open, businessDate }, within);
  const standing = follow(standingOf(open), climbed, declineClass, toDay(businessDate), {
    again,
    inHand: begun,
  });
  const asked = declineClass === 'soon' ? askedAt(standing, climbed, again) : {};
  await open.update({ ...columnsOf(standing), ...asked }, { transaction: within });
}

/** What only the customer can mend is on the day sheet while it is so. */
async function askForCard(
  almanac: Almanac,
  { open, subscription, meaning, businessDate }: Following,
  within: Transaction,
): Promise<void> {
  if (subscription.collects === 'by hand') return;
  if (!needsItsHolder(meaning.class)) return settleNeeds(almanac, within, `case:${open.id}`, businessDate);
  await raiseNeedAgain(almanac, within, {
    onceKey: `case:${open.id}`,
    arose: businessDate,
    kind: 'card to be replaced',
    says: `Declined: ${meaning.says}. We do not try this card again; only the customer can mend it.`,
    subscriptionId: subscription.id,
    customerId: subscription.customerId,
  });
}

/**
 * A customer has another card in use: nothing is known against it, so that their open cases try it as any other.
 * @param subscriptionId the one whose case does, where the card is its own
 */
export async function followNewCard(
  almanac: Almanac,
  customerId: string,
  businessDate: string,
  within: Transaction,
  subscriptionId: string | null = null,
): Promise<void> {
  const bound = { customerId, subscriptionId };
  await almanac.db.rows(
    `select s.id from subscriptions s join recovery_cases k on k.subscription_id = s.id
     where s.customer_id = $customerId and k.state = 'open' and s.id = coalesce($subscriptionId, s.id)
     order by s.id for update of s`,
    bound,
    within,
  );
  const cases = await almanac.db.rows<{ id: string }>(
    `select k.id::text from recovery_cases k join subscriptions s on s.id = k.subscription_id
     where s.customer_id = $customerId and k.state = 'open' and s.id = coalesce($subscriptionId, s.id)
       and k.decline_class in ('ask', 'never') and s.collects = 'automatic' order by k.id for update of k`,
    bound,
    within,
  );
  for (const { id } of cases) {
    const open = await RecoveryCase.findByPk(id, { transaction: within, rejectOnEmpty: true });
    await followClass(almanac, open, 'wait', businessDate, within);
    await settleNeeds(almanac, within, `case:${id}`, businessDate);
  }
}

function needsItsHolder(declineClass: DeclineClass): boolean {
  return declineClass === 'ask' || declineClass === 'never';
}
