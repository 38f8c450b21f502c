import { isDeepStrictEqual } from 'node:util';
import type { Transaction } from 'sequelize';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { withoutCredit, type WalkPosition } from '../../core/listing/walkPosition.ts';
import type { Almanac } from '../almanac.ts';
import { correctWithin } from '../creditNotes/correctInvoice.ts';
import { RefusedCommand } from '../http/problem.ts';
import { sayUnderWay } from '../invoices/lockInvoice.ts';
import type { TakenBackInvoice } from './alterMessages.ts';
import type { ComingPayment } from './messages.ts';
import type { Subscription } from './Subscription.ts';

/*
 * Invoices that were issued some days before their period begins. Until it begins they may be taken back by a credit note,
 * and the walk goes back to its place before them: so an alteration is planned as if they had not been issued, and those
 * that come out otherwise are issued anew.
 */

interface EarlyInvoice {
  readonly id: string;
  readonly number: string;
  readonly kind: string;
  readonly from: string;
  readonly currency: string;
  /** Minor units. */
  readonly total: string;
  readonly owed: string;
  /** What was credited of it by hand. */
  readonly credited: string;
  readonly walkBefore: WalkPosition;
  /** A charge of it may have been made. */
  readonly isUnderWay: boolean;
}

/** What of a subscription was issued before its time, in order, and the place of its walk before all of that. */
export interface IssuedEarly {
  readonly invoices: readonly EarlyInvoice[];
  readonly walk: WalkPosition | null;
}

/**
 * The invoices of a subscription, locked by the caller, whose period has not begun and that can be taken back. One that staff
 * have taken back or written off stays as it is, and with it those before it.
 * @param from the first day whose periods have not begun: the business day, until its page is turned
 */
export async function issuedEarly(
  { db }: Almanac,
  { id, walk }: Pick<Subscription, 'id' | 'walk'>,
  from: string,
  within?: Transaction,
): Promise<IssuedEarly> {
  const found = await db.rows<EarlyInvoice & { readonly stays: boolean }>(
    `select i.id::text, i.prefix || i.number as number, i.kind, i.period_from as "from", i.currency, i.total::text, i.owed::text,
       i.walk_before as "walkBefore",
       exists (select from attempts a where a.invoice_id = i.id and (a.state = 'under way' or a.goes_on)) as "isUnderWay",
       n.total::text as credited, i.state in ('withdrawn', 'written off') or i.total > 0 and i.total <= n.total as stays
     from invoices i
     cross join lateral (select coalesce(sum(n.total), 0) as total from credit_notes n where n.invoice_id = i.id) n
     where i.subscription_id = $id and i.walk_before is not null and i.period_from >= $from and not i.taken_back
     order by i.period_from desc`,
    { id, from },
    within,
  );
  const stays = found.findIndex((one) => one.stays);
  const invoices = (stays < 0 ? found : found.slice(0, stays)).reverse();
  return { invoices, walk: invoices[0]?.walkBefore ?? walk ?? null };
}

/** What becomes of invoices that were issued early. */
export interface Standing {
  readonly takenBack: readonly EarlyInvoice[];
  readonly stands: readonly EarlyInvoice[];
  /** Something is to be invoiced now that comes before those that stand, such as an amount that was agreed to today. */
  readonly hasAside: boolean;
  /** The place of the walk before all of them, and after those that stand. */
  readonly place: WalkPosition | null;
  readonly walk: WalkPosition | null;
}

/**
 * Which of them come out the same by other terms, and stand; the first that does not is taken back with all after it.
 * @param today what is charged once up to this day is invoiced beside them
 */
export function standingUnder(
  { invoices, walk: place }: IssuedEarly,
  { before, after }: { readonly before: CompiledTerms; readonly after: CompiledTerms },
  today: string,
): Standing {
  const [was, is] = [new PaymentWalk(before, place ?? undefined), new PaymentWalk(after, place ?? undefined)];
  let walk = place;
  let asides = 0;
  const until = (i: number): Standing => ({
    ...{ takenBack: invoices.slice(i), stands: invoices.slice(0, i), hasAside: i > 0 && asides > 0 },
    ...{ place, walk },
  });
  for (const [i, { kind, from }] of invoices.entries()) {
    const old = was.next();
    let fresh = is.next();
    for (; fresh?.kind === 'once' && old?.kind !== 'once' && fresh.from <= toDay(today); fresh = is.next())
      asides += 1;
    const isIt = old !== null && old.kind === kind && formatDay(old.from) === from;
    if (!isIt || !isDeepStrictEqual(old, fresh)) return until(i);
    walk = withoutCredit(is.position());
  }
  return until(invoices.length);
}

/** Those that stand and those that do not. */
export const allOf = ({ stands, takenBack }: Standing): readonly EarlyInvoice[] => [...stands, ...takenBack];

/** All of them, where it ends before any of them begins. */
export const allTakenBack = ({ invoices, walk }: IssuedEarly): Standing => ({
  ...{ takenBack: invoices, stands: [], hasAside: false },
  ...{ place: walk, walk },
});

/** @throws RefusedCommand while one that is to be taken back is being charged: what comes of that is not known yet */
export function requireNoneUnderWay({ takenBack }: Standing): void {
  const charged = takenBack.find(({ isUnderWay }) => isUnderWay);
  if (charged) throw new RefusedCommand(409, sayUnderWay(charged.number));
}

/** Whether something is to be issued in the same act: in place of what is taken back, or beside what stands. */
export const issuesMore = ({ takenBack, hasAside }: Standing): boolean => takenBack.length > 0 || hasAside;

/** Payments to come of which some are invoiced early: of those, what they still lack; what is paid is none to come. */
export function lackedOf(
  coming: readonly ComingPayment[],
  invoices: readonly EarlyInvoice[],
): ComingPayment[] {
  return coming.flatMap((payment) => {
    const invoice = invoices.find(({ kind, from }) => kind === payment.kind && from === payment.from);
    if (invoice === undefined) return payment;
    return invoice.owed === '0' ? [] : { ...payment, due: invoice.owed };
  });
}

/** What is shown of invoices that are taken back. */
export function viewOf(invoices: readonly EarlyInvoice[]): TakenBackInvoice[] {
  return invoices.map((one) => ({ number: one.number, total: one.total, toCredit: paidOf(one).toString() }));
}

/** What was paid of one, in minor units: all of it but what it lacks, and what was credited already. */
const paidOf = ({ total, owed, credited }: EarlyInvoice): bigint => {
  const paid = BigInt(total) - BigInt(credited) - BigInt(owed);
  return paid > 0n ? paid : 0n;
};

/**
 * Takes invoices back by credit notes: what was paid of them is the customer's credit, which the next one uses first.
 * @throws RefusedCommand while one of them is being charged
 */
export async function takeBackEarly(
  almanac: Almanac,
  { collects }: Pick<Subscription, 'collects'>,
  invoices: readonly EarlyInvoice[],
  reason: string,
  within: Transaction,
): Promise<void> {
  for (const one of invoices.toReversed()) {
    const { id, total } = one;
    // Who pays by hand has it before them.
    const writes = collects === 'by hand' || paidOf(one) > 0n;
    if (total !== '0') await correctWithin(almanac, id, { what: { kind: 'all' }, reason, writes }, within);
    await almanac.db.rows('update invoices set taken_back = true where id = $id', { id }, within);
  }
}

/**
 * A subscription is over: nothing that has not begun is owed of it. What begins on the business day was invoiced before it
 * was over, and what is being charged at this moment stays.
 */
export async function dropEarly(
  almanac: Almanac,
  subscription: Subscription,
  today: string,
  within: Transaction,
): Promise<void> {
  const tomorrow = formatDay(toDay(today) + 1);
  const { invoices } = await issuedEarly(almanac, subscription, tomorrow, within);
  const dropped = invoices.slice(invoices.findLastIndex(({ isUnderWay }) => isUnderWay) + 1);
  const [first] = dropped;
  if (!first) return;
  await takeBackEarly(almanac, subscription, dropped, 'The subscription is over before it begins', within);
  await subscription.update({ walk: first.walkBefore }, { transaction: within });
}
