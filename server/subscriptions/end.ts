import { onDate } from '../../core/letters/said.ts';
import { formatDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { Almanac } from '../almanac.ts';
import { writeAbout } from '../notices/occasions.ts';
import { issueDay } from '../../core/listing/issueDay.ts';
import { sayCreditLeft } from './sayCreditLeft.ts';
import { lawFactsOf, loadLaw } from './law.ts';
import { lockedSubscription } from './lock.ts';
import { isOver, standEnded, whyItEnds } from './stand.ts';

/**
 * Ends a subscription whose dates have come to their end, and says so, unless who cancelled it was told then. Amounts
 * agreed to for days after the end are invoiced on their days nevertheless.
 */
export function endSubscription(almanac: Almanac, id: string, businessDate: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const subscription = await lockedSubscription(id, within);
    const { endsOn } = subscription;
    if (isOver(subscription) || endsOn === null || endsOn === undefined || endsOn > businessDate) return;
    let wakeOn: string | null = null;
    if (subscription.invoicing === 'each') {
      const law = await loadLaw(almanac, within);
      const terms = law.compile(await lawFactsOf(almanac, id, within));
      const later = new PaymentWalk(terms, subscription.walk ?? undefined).next();
      wakeOn = later === null ? null : formatDay(issueDay(later, subscription));
    }
    await standEnded(subscription, { why: whyItEnds(subscription), closedOn: endsOn, wakeOn }, within);
    if ((subscription.cancelledBy ?? null) !== null) return;
    const letter = {
      event: 'ended',
      onceKey: `ended:${id}`,
      reason: 'The subscription is complete',
      says: {
        date: onDate(endsOn),
        ...(wakeOn === null ? await sayCreditLeft(almanac, subscription, within) : {}),
      },
    } as const;
    await writeAbout(almanac, subscription, letter, businessDate, within);
  });
}
