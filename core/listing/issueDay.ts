import { toDay, type Day } from '../dates/day.ts';
import type { Payment } from './payment.ts';

/** What decides how early a subscription's payments are invoiced. */
export interface IssuedBefore {
  /** So many days before its boundary, 0 to 90. */
  readonly issueBefore: number;
  readonly startsOn: string;
  readonly trialEndsOn: string | null;
}

/**
 * The day on which a payment is invoiced: its boundary, or the day on which it is due where working days move that to
 * before it, so that it is charged on the day that was shown. Where the subscription says so, a full period is invoiced
 * so many days earlier: never before the subscription starts or its trial ends, and not where it gives money back.
 */
export function issueDay(
  { kind, from, dueOn, money }: Pick<Payment, 'kind' | 'from' | 'dueOn' | 'money'>,
  { issueBefore, startsOn, trialEndsOn }: IssuedBefore,
): Day {
  const usual = Math.min(from, dueOn);
  if (issueBefore === 0 || kind !== 'period' || money.total < 0n) return usual;
  return Math.min(usual, Math.max(usual - issueBefore, toDay(trialEndsOn ?? startsOn), toDay(startsOn)));
}
