import { sayFigure } from '../../../../core/words/amount.ts';
import type { CaseFacts, CaseSum } from '../../../../core/recovery/figures.ts';
import type { ChartTable } from '../../../parts/ChartAndTable.tsx';
import { typedOf } from '../../../parts/minorOf.ts';

/** Months in words: 'Nov 2026'. */
export const sayMonth = (month: string) =>
  new Intl.DateTimeFormat('en-GB', { month: 'short', year: 'numeric', timeZone: 'UTC' }).format(
    new Date(`${month}-01T00:00:00Z`),
  );

export const sayRate = (rate: number | null) => (rate === null ? '' : (100 * rate).toFixed(1));
export const sayDays = (days: number | null) => (days === null ? '' : days.toFixed(1));

/** Sums of groups of cases as a table, and as a file with plain numbers. */
export function sumTable(
  name: string,
  of: string,
  sums: readonly (readonly [string, CaseSum])[],
  currency: string,
): ChartTable {
  const cells = (money: (minor: number) => string) =>
    sums.map(([key, sum]) => [
      key,
      String(sum.cases),
      money(sum.failed),
      money(sum.recovered),
      sayRate(sum.rate),
      money(sum.atRisk),
      money(sum.lost),
      String(sum.casesGivenUp),
      sayDays(sum.days),
    ]);
  return {
    name,
    columns: [
      ...[of, 'Cases', `Failed, ${currency}`, 'Recovered', 'Rate, %', 'At risk', 'Lost', 'Given up', 'Days'],
    ],
    rows: cells((minor) => sayFigure(BigInt(Math.round(minor)), currency)),
    plain: cells((minor) => typedOf(BigInt(Math.round(minor)), currency)),
  };
}

/** By what cases were given up: how many, and how much was lost. */
export function lostTable(facts: readonly CaseFacts[], currency: string): ChartTable {
  const over = facts.filter(({ how, isRecovered }) => how !== null && !isRecovered);
  const groups = new Map<string, { cases: number; lost: number }>();
  for (const { how, reason, cases, failed, recovered } of over) {
    const key = `${reason}: ${how}`;
    const now = groups.get(key) ?? { cases: 0, lost: 0 };
    groups.set(key, { cases: now.cases + cases, lost: now.lost + Math.max(failed - recovered, 0) });
  }
  const sorted = [...groups].toSorted(([, a], [, b]) => b.lost - a.lost);
  const cells = (money: (minor: number) => string) =>
    sorted.map(([key, { cases, lost }]) => [key, String(cases), money(lost)]);
  return {
    name: 'given-up',
    columns: ['Why, and how', 'Cases', `Lost, ${currency}`],
    rows: cells((minor) => sayFigure(BigInt(minor), currency)),
    plain: cells((minor) => typedOf(BigInt(minor), currency)),
  };
}
