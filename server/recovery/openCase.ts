import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { NO_METHOD, type DeclineClass, type DeclineMeaning } from '../../core/recovery/declineCodes.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import { raiseNeedAgain, settleNeeds } from '../run/needs.ts';
import { standOverdue } from '../subscriptions/stand.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import { Ladder } from './Ladder.ts';
import { RecoveryCase } from './RecoveryCase.ts';

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
    if (meaning) await follow(almanac, { open, subscription, meaning, businessDate }, within);
    return;
  }
  if (subscription.state === 'lapsed') return; // Its case has been given up; the debt stays payable by hand.

  const ladder = await Ladder.findOne({
    where: { isDefault: true },
    transaction: within,
    rejectOnEmpty: true,
  });
  const known = meaning ?? { ...NO_METHOD, says: 'the card needs its holder' };
  const soon = known.class === 'soon';
  const tomorrow = dayAfter(businessDate);
  const opened = await RecoveryCase.create(
    {
      subscriptionId: subscription.id,
      ladderId: ladder.id,
      state: 'open',
      declineClass: known.class,
      openedOn: businessDate,
      ...(soon ? await soonAfter(almanac, businessDate, within) : { retryOn: null }),
      nextRung: 0,
      nextRungOn: soon ? tomorrow : businessDate,
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

/** The case is of the class of the latest answer: a bank that is away is asked again tomorrow, whatever was before. */
async function follow(almanac: Almanac, following: Following, within: Transaction): Promise<void> {
  const { open, meaning, businessDate } = following;
  const again =
    meaning.class === 'soon' && open.nextRung > 0 ? await soonAfter(almanac, businessDate, within) : {};
  await open.update({ declineClass: meaning.class, ...again }, { transaction: within });
  await askForCard(almanac, following, within);
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
  almanac: Pick<Almanac, 'db'>,
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
    `update recovery_cases k set decline_class = 'wait' from subscriptions s
     where s.id = k.subscription_id and s.customer_id = $customerId and k.state = 'open'
       and s.id = coalesce($subscriptionId, s.id) and k.decline_class in ('ask', 'never') and s.collects = 'automatic' returning k.id::text`,
    bound,
    within,
  );
  for (const { id } of cases) await settleNeeds(almanac, within, `case:${id}`, businessDate);
}

function needsItsHolder(declineClass: DeclineClass): boolean {
  return declineClass === 'ask' || declineClass === 'never';
}

/** After so many hours a bank or network that is away is asked again. */
const SOON_HOURS = 2;

/** When what may work soon is tried again: within hours, or, where a clock of practice knows no hours, on the next day. */
async function soonAfter(
  { clock }: Almanac,
  businessDate: string,
  within: Transaction,
): Promise<{ retryOn: string; retryAt: Date | null }> {
  const { practice } = await Business.findOne({ transaction: within, rejectOnEmpty: true });
  if (practice) return { retryOn: dayAfter(businessDate), retryAt: null };
  return { retryOn: businessDate, retryAt: new Date(clock().getTime() + SOON_HOURS * 3_600_000) };
}

const dayAfter = (businessDate: string) => formatDay(toDay(businessDate) + 1);
