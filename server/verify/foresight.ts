import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { monthlyValue } from '../../core/value/monthlyValue.ts';
import type { Law } from '../../core/terms/law.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { inBatches } from '../db/inBatches.ts';
import { rebuildDaySums } from '../forecast/daySums.sql.ts';
import { foreseeAnew } from '../forecast/foresee.ts';
import { foreseeableAfter, type Foreseeable } from '../forecast/foresight.sql.ts';
import { lastForeseen } from '../forecast/planned.sql.ts';
import { taxedAtOnce } from '../invoices/wholeOf.ts';
import { loadLaw } from '../subscriptions/law.ts';
import type { Finding } from './finding.ts';

const RULE = 'what is stored ahead of a subscription is what its terms come to';
const BATCH = 1_000;

/** What is stored ahead of one subscription. */
interface Stored {
  readonly id: string;
  readonly nextOn: string | null;
  readonly nextAmount: string | null;
  readonly monthly: string | null;
  /** As `date amount`, in the order of dates. */
  readonly charges: readonly string[];
}

/**
 * Walks the terms of every subscription anew and holds what is stored of it against that. What a worker is still to
 * foresee, or follows a law that has just changed, is not looked at.
 */
export async function foresightIsWhatTermsSay(almanac: Almanac): Promise<Finding> {
  const businessDate = await businessDateOf(almanac);
  const waiting = await almanac.db.row('select 1 from law_changes where reached is not null');
  if (waiting) return { rule: RULE, breaches: [] };
  const law = await loadLaw(almanac);
  const breaches: string[] = [];
  for await (const some of inBatches((after) => foreseeableAfter(almanac, after, BATCH))) {
    const stored = await storedOf(almanac, some, businessDate);
    for (const one of some) {
      const kept = stored.get(one.id);
      if (kept) breaches.push(...differencesOf(one, kept, law, businessDate));
    }
  }
  return { rule: RULE, breaches };
}

async function storedOf(
  { db }: Almanac,
  some: readonly Foreseeable[],
  businessDate: string,
): Promise<Map<string, Stored>> {
  const rows = await db.rows<Stored>(
    `select s.id::text, s.next_on as "nextOn", s.next_amount::text as "nextAmount", s.monthly::text as monthly,
       array(select p.charge_on || ' ' || p.amount from planned_charges p
             where p.subscription_id = s.id and p.charge_on <= $last order by p.charge_on) as charges
     from subscriptions s
     where s.id = any($ids::bigint[]) and (s.foresee_on is null or s.foresee_on > $businessDate)`,
    { ids: some.map(({ id }) => id), businessDate, last: lastForeseen(businessDate) },
  );
  return new Map(rows.map((row) => [row.id, row]));
}

function differencesOf(one: Foreseeable, kept: Stored, law: Law, businessDate: string): string[] {
  let expected: ReturnType<typeof walked>;
  try {
    expected = walked(one, law, businessDate);
  } catch {
    return [`the terms of subscription ${one.id} cannot be read`];
  }
  const differ = (what: string, stored: string | null, is: string | null) =>
    stored === is
      ? []
      : [`${what} of subscription ${one.id} is stored as ${stored ?? 'none'} and is ${is ?? 'none'}`];
  return [
    ...differ('the next payment', say(kept.nextOn, kept.nextAmount), expected.next),
    ...differ('the monthly value', kept.monthly, expected.monthly),
    ...differ('what is planned', kept.charges.join(', '), expected.charges.join(', ')),
  ];
}

const say = (on: string | null, amount: string | null) => (on === null ? null : `${on} ${amount}`);

/** What the terms of a subscription come to, walked one payment after the other. */
function walked({ id: _, ...one }: Foreseeable, law: Law, businessDate: string) {
  if (one.state === 'lapsed' || (one.state === 'ended' && one.wakeOn === null))
    return { next: null, monthly: '0', charges: [] };
  const compiled = law.compile(one);
  const walk = new PaymentWalk(
    one.invoicing === 'whole' ? taxedAtOnce(compiled) : compiled,
    one.walk ?? undefined,
  );
  const last = toDay(lastForeseen(businessDate));
  const sums = new Map<number, bigint>();
  let next: string | null = null;
  // Where working days move them forward, payments are due before their boundaries: some are looked at beyond the last day.
  for (let payment = walk.next(); payment !== null; payment = walk.next()) {
    next ??= say(formatDay(payment.dueOn), payment.due.toString());
    if (payment.from > last + 31) break;
    if (payment.due > 0n && payment.dueOn <= last)
      sums.set(payment.dueOn, (sums.get(payment.dueOn) ?? 0n) + payment.due);
  }
  return {
    next,
    monthly: monthlyValue(compiled, toDay(businessDate)).toString(),
    charges: [...sums].sort(([a], [b]) => a - b).map(([day, amount]) => `${formatDay(day)} ${amount}`),
  };
}

/** Stores everything anew that can be computed from the rest: what is foreseen of each subscription, and the sums of days. */
export async function mendForesight(
  almanac: Almanac,
  progress: (done: number) => void = () => undefined,
): Promise<void> {
  let done = 0;
  for await (const some of inBatches((after) => foreseeableAfter(almanac, after, BATCH))) {
    await almanac.db.transaction((within) =>
      foreseeAnew(
        almanac,
        some.map(({ id }) => id),
        within,
        { passesOver: true },
      ),
    );
    done += some.length;
    progress(done);
  }
  await rebuildDaySums(almanac);
}
