import type { Day } from '../../core/dates/day.ts';
import type { Payment } from '../../core/listing/payment.ts';

/**
 * The day on which a payment is invoiced: its boundary, or the day on which it is due where working days move that to
 * before it, so that it is charged on the day that was shown.
 */
export function issueDay({ from, dueOn }: Pick<Payment, 'from' | 'dueOn'>): Day {
  return Math.min(from, dueOn);
}
