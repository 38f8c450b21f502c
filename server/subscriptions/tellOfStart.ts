import { money, onDate } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { formatDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { saidCurrentCard, writeAbout } from '../notices/occasions.ts';
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
  if (subscription.firstWords === null) return;
  const first = firstCharge(terms);
  const charge =
    first === null
      ? { amount: '', next: '' }
      : {
          amount: money(first.due, subscription.terms.currency),
          next: onDate(formatDay(first.dueOn)),
        };
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'started',
      onceKey: `started:${subscription.id}`,
      reason: 'The subscription started',
      says: {
        date: onDate(subscription.startsOn),
        ...charge,
        card: await saidCurrentCard(subscription, within),
        how: first === null ? 'free' : howPaid(subscription),
        words: subscription.firstWords,
      },
    },
    businessDate,
    within,
  );
}

/** How a subscription is paid, as the letter tells it: by hand, with a card that there is, or one that is to come. */
function howPaid({ withoutMethod, methodState, collects }: DueSubscription): string {
  if (withoutMethod === null || methodState !== null) return collects;
  return withoutMethod === 'wait' ? 'asked for' : 'no card';
}
