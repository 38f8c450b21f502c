import type { Transaction } from 'sequelize';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { formatDay } from '../../core/dates/day.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { sayCurrentCard, writeAbout } from '../notices/occasions.ts';
import type { DueSubscription } from './due.sql.ts';
import { firstCharge } from './firstCharge.ts';

/** Welcomes the customer of a subscription that starts: when, and what is charged first. */
export async function tellOfStart(
  almanac: Almanac,
  subscription: DueSubscription,
  terms: CompiledTerms,
  businessDate: string,
  within: Transaction,
): Promise<void> {
  const first = firstCharge(terms);
  const charge =
    first === null
      ? { amount: '', next: '' }
      : {
          amount: sayAmount(first.due, subscription.terms.currency),
          next: sayDate(formatDay(first.dueOn)),
        };
  const waitsForCard = subscription.withoutMethod !== null && subscription.methodState === null;
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'started',
      onceKey: `started:${subscription.id}`,
      reason: 'The subscription started',
      says: {
        date: sayDate(subscription.startsOn),
        ...charge,
        card: await sayCurrentCard(subscription.customerId, within),
        reason: waitsForCard ? 'no card' : subscription.collects,
      },
    },
    businessDate,
    within,
  );
}
