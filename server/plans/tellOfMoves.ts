import { money, onDate, sentence } from '../../core/letters/said.ts';
import { formatDay } from '../../core/dates/day.ts';
import { sayDate } from '../../core/words/date.ts';
import type { SayableTerms } from '../../core/words/sayRate.ts';
import type { Almanac } from '../almanac.ts';
import { writeAbout } from '../notices/occasions.ts';
import { firstCharge } from '../subscriptions/firstCharge.ts';
import { lawFactsOf, loadLaw } from '../subscriptions/law.ts';
import { Subscription } from '../subscriptions/Subscription.ts';

/** The moves to another version of a rate of which it is time to write: subscription and move, `7:3`. */
export const MOVES_TO_TELL = `
  select m.subscription_id || ':' || m.move_id as item
  from subscription_moves m join subscriptions s on s.id = m.subscription_id
  where m.written_on is null and m.letter_on <= $businessDate and s.state not in ('lapsed', 'ended')
  order by m.move_id, m.subscription_id`;

/** Writes to the customer of one move what changes, when, and what the first payment is. */
export async function tellOfMove(almanac: Almanac, item: string, businessDate: string): Promise<void> {
  const [subscriptionId = '', moveId = ''] = item.split(':');
  await almanac.db.transaction(async (within) => {
    const move = await almanac.db.row<{ move_id: string; subscription_id: string; effective_on: string }>(
      `select move_id::text, subscription_id::text, effective_on from subscription_moves
       where move_id = $moveId and subscription_id = $subscriptionId and written_on is null for update`,
      { moveId, subscriptionId },
      within,
    );
    if (!move) return;
    const subscription = await Subscription.findByPk(move.subscription_id, {
      transaction: within,
      rejectOnEmpty: true,
    });
    const law = await loadLaw(almanac, within);
    const terms = law.compile(await lawFactsOf(almanac, subscription.id, within));
    const first = firstCharge(terms, move.effective_on);
    const change =
      'lines' in subscription.terms
        ? subscription.terms.changes?.find(({ date }) => date === move.effective_on)
        : undefined;
    const then = { ...subscription.terms, ...change, ...change?.schedule, trial: undefined };
    await writeAbout(
      almanac,
      subscription,
      {
        event: 'terms changing',
        onceKey: `move:${move.move_id}:${subscription.id}`,
        reason: `The rate changes on ${sayDate(move.effective_on)}`,
        says: {
          date: onDate(move.effective_on),
          amount: { rate: then as SayableTerms },
          reason: first ? money(first.due, subscription.terms.currency) : sentence('nothing', {}),
          next: onDate(first ? formatDay(first.dueOn) : move.effective_on),
        },
      },
      businessDate,
      within,
    );
    await almanac.db.rows(
      'update subscription_moves set written_on = $businessDate where move_id = $moveId and subscription_id = $subscriptionId',
      { businessDate, moveId: move.move_id, subscriptionId: subscription.id },
      within,
    );
  });
}
