import { formatDay, toDay } from '../../../core/dates/day.ts';
import { paymentsOf } from '../../../core/listing/listPayments.ts';
import { checkTerms } from '../../../core/terms/check.ts';
import { compileTerms } from '../../../core/terms/compile.ts';
import type { RateView } from '../../../server/plans/messages.ts';
import { sampleTerms } from './sampleTerms.ts';

export interface ComparedRate {
  /** What falls due in a whole year of full periods, minor units, before taxes of the law. */
  readonly year: bigint;
  /** How much less than the dearest rate of the same currency. */
  readonly saves: bigint;
  readonly percent: string;
  readonly against: string;
}

/**
 * Holds the rates of a plan against each other: what each comes to in a year, after trial, set-up and first prices,
 * and what it saves against the dearest of its currency. Rates that end within the year, and one-off ones, are left
 * out.
 */
export function compareRates(rates: readonly RateView[], today: string): Map<string, ComparedRate> {
  const years = rates.flatMap((rate) => {
    const year = yearOf(rate.terms, today);
    return year === null
      ? []
      : [{ id: rate.id, name: rate.name, currency: String(rate.terms.currency), year }];
  });
  return new Map(
    years.map(({ id, currency, year }) => {
      const dearest = years
        .filter((one) => one.currency === currency)
        .reduce((a, b) => (b.year > a.year ? b : a));
      const saves = dearest.year - year;
      const thousandths = dearest.year === 0n ? 0n : (saves * 1000n + dearest.year / 2n) / dearest.year;
      const percent = `${thousandths / 10n}${thousandths % 10n === 0n ? '' : `.${thousandths % 10n}`}`;
      return [id, { year, saves, percent, against: `Against ${dearest.name}` }];
    }),
  );
}

function yearOf(stored: Readonly<Record<string, unknown>>, today: string): bigint | null {
  const { trial: _trial, setup: _setup, once: _once, lines, on, ...rest } = stored;
  if (!Array.isArray(lines)) return null;
  const plain = lines.map((line: Record<string, unknown>) => {
    const { intro: _intro, discounts: _discounts, ...kept } = line;
    return kept;
  });
  // Counted over four years, so that leap years and weeks come out even; from the billing day on.
  const terms = sampleTerms({ ...rest, lines: plain, ...(on ? { on, stub: 'free' } : {}) }, today);
  const checked = checkTerms(terms);
  if (!checked.ok || ('ends' in checked.terms && checked.terms.ends)) return null;
  const payments = [
    ...paymentsOf(compileTerms(checked.terms), { until: formatDay(toDay(today) + 4 * 366 + 366) }),
  ];
  const first = payments[0]?.from ?? toDay(today);
  const sum = payments.reduce(
    (total, { from, money }) => (from < first + 1461 ? total + money.total : total),
    0n,
  );
  return (sum + 2n) / 4n;
}
