import { formatDay, toDay } from '../dates/day.ts';
import { parseDuration } from '../dates/duration.ts';
import { minorDigits } from '../money/currency.ts';
import type { Payment } from '../listing/payment.ts';
import type { Terms } from '../terms/schema.ts';
import { sayAmount } from './amount.ts';
import { sayDate, sayDayMonthYear } from './date.ts';

/** Something about terms that people often read otherwise than it is computed. */
export interface Trap {
  /** Names its kind, for whoever acts on it. */
  readonly kind: 'short month' | 'weeks' | 'last period' | 'late start' | 'nothing' | 'large';
  readonly says: string;
}

/**
 * The traps in terms, by what their payments come to. Each is said with its dates and amounts.
 * @param payments the first payments of these terms, as they are listed
 */
export function trapsOf(terms: Terms, payments: readonly Payment[]): Trap[] {
  if (!('lines' in terms)) return [];
  const traps: Trap[] = [];
  const { on, interval, ends, currency, endStub } = terms;
  const periods = payments.filter(({ kind }) => kind === 'period');
  const wanted = on && 'day' in on ? (on.day === 'last' ? 0 : on.day) : anchorOf(terms, periods);
  if (wanted >= 29) {
    const short = periods.find(({ from }) => Number(formatDay(from).slice(8)) < wanted);
    if (short) {
      traps.push({
        kind: 'short month',
        says: `Day ${wanted}: in a shorter month this is on its last day, such as ${sayDate(formatDay(short.from))}.`,
      });
    }
  }
  const every = parseDuration(interval);
  if (every?.unit === 'W' && every.count > 1) {
    const next = periods.slice(0, 3).map(({ from }) => sayDate(formatDay(from)));
    traps.push({ kind: 'weeks', says: `Every ${every.count} weeks, not each week: ${next.join(', ')}.` });
  }
  if (ends?.until !== undefined && endStub !== 'prorate') {
    const last = payments.at(-1);
    if (last && last.to > toDay(ends.until) + 1 && last.from <= toDay(ends.until)) {
      traps.push({
        kind: 'last period',
        says: `Ends ${sayDayMonthYear(ends.until)}: ${sayAmount(last.due, currency)} is still charged on ${sayDate(formatDay(last.dueOn))}, for service up to ${sayDate(formatDay(last.to - 1))}.`,
      });
    }
  }
  const first = payments.find(({ due }) => due > 0n);
  if (first && first.from > toDay(terms.starts) && !terms.trial) {
    traps.push({
      kind: 'late start',
      says: `Nothing is charged before ${sayDate(formatDay(first.dueOn))}, though it starts on ${sayDate(terms.starts)}.`,
    });
  }
  const largest = payments.reduce((most, { due }) => (due > most ? due : most), 0n);
  if (payments.length > 0 && largest === 0n) {
    traps.push({ kind: 'nothing', says: 'Nothing is ever charged for it: every payment comes to 0.' });
  }
  if (largest >= LARGE * 10n ** BigInt(minorDigits(currency))) {
    traps.push({ kind: 'large', says: `${sayAmount(largest, currency)} at a time: is that what is meant?` });
  }
  return traps;
}

/** A payment of so many major units is remarked on: it may be a slip of the keyboard. */
const LARGE = 1_000_000n;

/** The day of the month that months are counted from where no billing day is set; 0 where there is none. */
function anchorOf(terms: Terms, periods: readonly Payment[]): number {
  const unit = 'interval' in terms ? parseDuration(terms.interval)?.unit : undefined;
  if (('on' in terms && terms.on) || (unit !== 'M' && unit !== 'Y')) return 0;
  return Number(formatDay(periods[0]?.from ?? toDay(terms.starts)).slice(8));
}
