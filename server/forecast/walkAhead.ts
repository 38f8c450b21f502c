import { formatDay, toDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { LawFacts } from '../../core/terms/law.ts';
import type { Almanac } from '../almanac.ts';
import { LAW_COLUMNS, loadLaw } from '../subscriptions/law.ts';

/** What will be charged on a day to come. */
export interface PlannedPayment {
  readonly date: string;
  readonly subscriptionId: string;
  readonly amount: string;
  readonly currency: string;
}

/** With more subscriptions than this that go on, days further ahead than what is stored are not walked to. */
const MOST_WALKED = 2_000;

/**
 * What the terms of all running subscriptions come to between two days, inclusive, walked anew: for days that lie further
 * ahead than what is stored reaches.
 * @returns null where there are too many to walk them all while somebody waits
 */
export async function walkAhead(
  almanac: Almanac,
  from: string,
  to: string,
): Promise<PlannedPayment[] | null> {
  const running = await almanac.db.rows<LawFacts & { id: string; walk: WalkPosition | null }>(
    `select s.id::text, s.terms, ${LAW_COLUMNS}, s.walk
     from subscriptions s join customers c on c.id = s.customer_id
     where s.state <> 'lapsed' and s.wake_on <= $to limit ${MOST_WALKED + 1}`,
    { to },
  );
  if (running.length > MOST_WALKED) return null;
  const last = toDay(to);
  const planned: PlannedPayment[] = [];
  const law = await loadLaw(almanac);
  for (const { id, walk, ...facts } of running) {
    const { currency } = facts.terms;
    const coming = new PaymentWalk(law.compile(facts), walk ?? undefined);
    for (let payment = coming.next(); payment !== null && payment.from <= last; payment = coming.next()) {
      const date = formatDay(payment.dueOn);
      if (payment.due === 0n || date < from || date > to) continue;
      planned.push({ date, subscriptionId: id, amount: payment.due.toString(), currency });
    }
  }
  return planned;
}
