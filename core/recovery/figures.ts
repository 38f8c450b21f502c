/** Cases of one month that are alike in all that figures tell apart: how many, and what they come to, in minor units. */
export interface CaseFacts {
  /** The month in which the payment failed, `YYYY-MM`. */
  readonly month: string;
  readonly reason: string;
  readonly ladder: string;
  /** How many rungs were climbed until it was over, or until now. */
  readonly rungs: number;
  /** By what it was closed; null: it is open. */
  readonly how: string | null;
  readonly isRecovered: boolean;
  /** Whole days from the failure until it was over; null: it is open. */
  readonly days: number | null;
  readonly cases: number;
  /** What was owed when they failed, and what of it has come in since. */
  readonly failed: number;
  readonly recovered: number;
}

/** What some cases come to. */
export interface CaseSum {
  readonly cases: number;
  readonly failed: number;
  readonly recovered: number;
  /** What may still come in, of cases that are open; and what will not, of those that were given up or credited. */
  readonly atRisk: number;
  readonly lost: number;
  readonly casesOpen: number;
  readonly casesRecovered: number;
  readonly casesGivenUp: number;
  /** Of what had failed in cases that are over, the share that came in, 0 to 1; null: none is over. */
  readonly rate: number | null;
  /** Days from the failure until it was paid, on average over the cases that were recovered; null: none was. */
  readonly days: number | null;
}

/** Sums some facts. */
export function sumOf(facts: readonly CaseFacts[]): CaseSum {
  const add = (of: (one: CaseFacts) => number, some = facts) => some.reduce((sum, one) => sum + of(one), 0);
  const open = facts.filter(({ how }) => how === null);
  const over = facts.filter(({ how }) => how !== null);
  const paid = over.filter(({ isRecovered }) => isRecovered);
  const failedOver = add(({ failed }) => failed, over);
  const casesRecovered = add(({ cases }) => cases, paid);
  const left = ({ failed, recovered }: CaseFacts) => Math.max(failed - recovered, 0);
  return {
    cases: add(({ cases }) => cases),
    failed: add(({ failed }) => failed),
    recovered: add(({ recovered }) => recovered),
    atRisk: add(left, open),
    lost: add(left, over),
    casesOpen: add(({ cases }) => cases, open),
    casesRecovered,
    casesGivenUp: add(({ cases }) => cases, over) - casesRecovered,
    rate: failedOver === 0 ? null : add(({ recovered }) => recovered, over) / failedOver,
    days: casesRecovered === 0 ? null : add(({ days, cases }) => (days ?? 0) * cases, paid) / casesRecovered,
  };
}

/** The facts by something of them, each group summed, in the order in which they first come. */
export function sumsBy<Key extends string | number>(
  facts: readonly CaseFacts[],
  keyOf: (one: CaseFacts) => Key,
): readonly (readonly [Key, CaseSum])[] {
  const groups = new Map<Key, CaseFacts[]>();
  for (const one of facts) {
    const key = keyOf(one);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return [...groups].map(([key, group]) => [key, sumOf(group)] as const);
}

/** Days to recovery as they are shown together: the last day of each part, and how it is said. */
export const DAY_PARTS = [
  [1, '0–1'],
  [4, '2–4'],
  [9, '5–9'],
  [14, '10–14'],
  [30, '15–30'],
  [Infinity, 'over 30'],
] as const;

/** How many cases were recovered, and how much came in by them, in each of {@link DAY_PARTS}. */
export function byDays(
  facts: readonly CaseFacts[],
): readonly { readonly part: string; readonly cases: number; readonly recovered: number }[] {
  const paid = facts.filter(({ isRecovered, days }) => isRecovered && days !== null);
  return DAY_PARTS.map(([last, part], i) => {
    const after = DAY_PARTS[i - 1]?.[0] ?? -1;
    const some = paid.filter(({ days }) => (days ?? 0) > after && (days ?? 0) <= last);
    return {
      part,
      cases: some.reduce((sum, { cases }) => sum + cases, 0),
      recovered: some.reduce((sum, { recovered }) => sum + recovered, 0),
    };
  });
}

/** So many months, `YYYY-MM`, the last of them the given one; ascending. */
export function monthsUntil(last: string, count: number): readonly string[] {
  const [year = 0, month = 1] = last.split('-').map(Number);
  return Array.from({ length: count }, (_, i) => {
    const index = year * 12 + month - 1 - (count - 1 - i);
    return `${String(Math.floor(index / 12)).padStart(4, '0')}-${String((index % 12) + 1).padStart(2, '0')}`;
  });
}
