import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { readDaySums, type DaySum } from '../forecast/daySums.sql.ts';
import { foreseeingNow } from '../forecast/lawChanges.ts';
import { lastForeseen, openDuesByDay, plannedRows } from '../forecast/planned.sql.ts';
import { walkAhead } from '../forecast/walkAhead.ts';
import { PAGE_SIZE } from '../http/list.ts';
import {
  collectedRows,
  countHappened,
  declinedRows,
  happenedRows,
  needsOf,
  type DeclinedRow,
  type Slice,
} from './daySheet.sql.ts';
import type { DaySheet, FailedMovement, RailDay, SheetPart, Span, SpanSum } from './messages.ts';

/** How many rows of each part come with a sheet; the others are asked for page by page. */
const SHOWN: Slice = { limit: PAGE_SIZE, offset: 0 };
/** Of the day after, a few are named. */
const NAMED: Slice = { limit: 12, offset: 0 };

/** The sheet of one business day: what each part comes to, and the first of its rows. */
export async function readDaySheet(almanac: Almanac, date: string): Promise<DaySheet> {
  const { db } = almanac;
  const today = await businessDateOf(almanac);
  const tomorrow = formatDay(toDay(date) + 1);
  const isAhead = date >= today;
  const none: Promise<never[]> = Promise.resolve([]);
  const [sums, collected, failed, needs, happened, happenedCount, day, planned, next, foreseeing] =
    await Promise.all([
      sumsOfDays(almanac, date, tomorrow, today),
      date > today ? none : collectedRows(almanac, date, SHOWN),
      date > today ? none : declinedRows(almanac, date, SHOWN),
      date > today ? none : needsOf(almanac, date, today),
      happenedRows(almanac, date, SHOWN),
      countHappened(almanac, date),
      db.row<{ finished: boolean }>(
        'select finished_at is not null as finished from days where business_date = $date',
        { date },
      ),
      isAhead ? plannedRows(almanac, date, SHOWN) : none,
      isAhead ? plannedRows(almanac, tomorrow, NAMED) : none,
      isAhead ? foreseeingNow(almanac, today) : null,
    ]);
  const part = <Row>(on: string, kind: DaySum['kind'], rows: readonly Row[]): SheetPart<Row> => {
    const own = sums.filter((sum) => sum.date === on && sum.kind === kind);
    return {
      rows,
      total: own.reduce((all, { payments }) => all + payments, 0),
      sums: own.map(({ currency, amount }) => ({ currency, amount })),
    };
  };
  return {
    date,
    isBusinessDay: date === today,
    finished: day?.finished ?? false,
    isForeseen: tomorrow <= lastForeseen(today),
    foreseeing,
    collected: part(date, 'collected', collected),
    failed: part(date, 'declined', failed.map(sayDeclined)),
    planned: part(date, 'planned', planned),
    tomorrow: { date: tomorrow, ...part(tomorrow, 'planned', next) },
    needs,
    happened: { rows: happened, total: happenedCount, sums: [] },
  };
}

/** More rows of one part of a sheet. */
export async function readDayPart(
  almanac: Almanac,
  date: string,
  part: 'collected' | 'failed' | 'planned' | 'happened',
  page: number,
): Promise<readonly object[]> {
  const slice = { limit: PAGE_SIZE, offset: (page - 1) * PAGE_SIZE };
  switch (part) {
    case 'collected':
      return collectedRows(almanac, date, slice);
    case 'failed':
      return (await declinedRows(almanac, date, slice)).map(sayDeclined);
    case 'planned':
      return date < (await businessDateOf(almanac)) ? [] : plannedRows(almanac, date, slice);
    case 'happened':
      return happenedRows(almanac, date, slice);
  }
}

/** What days come to, by kind and currency: what is planned counts from the business day on. */
async function sumsOfDays(almanac: Almanac, from: string, until: string, today: string): Promise<DaySum[]> {
  const ahead = from < today ? today : from;
  const [stored, open] = await Promise.all([
    readDaySums(almanac, from, until),
    until < today ? [] : openDuesByDay(almanac, ahead, until),
  ]);
  const sums = new Map<string, DaySum>();
  const moved = stored.filter(({ kind, date }) => kind !== 'planned' || date >= today);
  for (const one of [...moved, ...open.map((due) => ({ ...due, kind: 'planned' as const }))]) {
    const key = `${one.date} ${one.kind} ${one.currency}`;
    const before = sums.get(key);
    const amount = (BigInt(one.amount) + BigInt(before?.amount ?? 0)).toString();
    sums.set(key, { ...one, payments: one.payments + (before?.payments ?? 0), amount });
  }
  return [...sums.values()];
}

function sayDeclined({ code, caseState, nextRungOn, wrote, ...movement }: DeclinedRow): FailedMovement {
  return {
    ...movement,
    says: `Declined: ${meaningOf(code).says}.`,
    next: sayNext(caseState, nextRungOn, wrote),
  };
}

function sayNext(state: string | null, nextRungOn: string | null, wrote: boolean): string {
  const letter = wrote ? ' We wrote to the customer that day.' : '';
  if (state === 'recovered') return `Paid since then.${letter}`;
  if (state === 'given up') return `All retries failed; given up.${letter}`;
  return nextRungOn ? `Next step on ${sayDate(nextRungOn)}.${letter}` : letter.trim();
}

/** What some days come to, both inclusive: what came in, what failed, and what is planned from the business day on. */
export async function readSpan(almanac: Almanac, from: string, until: string): Promise<Span> {
  const today = await businessDateOf(almanac);
  const reach = lastForeseen(today);
  const all = await sumsOfDays(almanac, from, until, today);
  const sums = all.filter(({ kind, date }) => kind !== 'planned' || date <= reach);
  const of = (kind: DaySum['kind'], currency: string): SpanSum => {
    const own = sums.filter((sum) => sum.kind === kind && sum.currency === currency);
    return {
      payments: own.reduce((count, { payments }) => count + payments, 0),
      amount: own.reduce((sum, { amount }) => sum + BigInt(amount), 0n).toString(),
    };
  };
  const currencies = [...new Set(sums.map(({ currency }) => currency))].sort();
  return {
    ...{ from, until },
    foreseenUntil: until > reach ? reach : null,
    currencies: currencies.map((currency) => ({
      currency,
      collected: of('collected', currency),
      declined: of('declined', currency),
      planned: of('planned', currency),
    })),
  };
}

/** The days of the rail between two dates, inclusive; at most as many as the message allows are asked for. */
export async function readRail(almanac: Almanac, from: string, to: string): Promise<RailDay[]> {
  const today = await businessDateOf(almanac);
  const first = toDay(from);
  const last = Math.max(first, toDay(to));
  const until = formatDay(last);
  const reach = lastForeseen(today);
  const sums = await sumsOfDays(almanac, from, until, today);
  const walked = until > reach ? await walkAhead(almanac, formatDay(toDay(reach) + 1), until) : [];
  return Array.from({ length: last - first + 1 }, (_, i) => {
    const date = formatDay(first + i);
    const own = sums.filter((sum) => sum.date === date && (sum.kind !== 'planned' || date <= reach));
    const further = (walked ?? []).filter((payment) => payment.date === date);
    const count = (kind: DaySum['kind']) =>
      own.filter((sum) => sum.kind === kind).reduce((all, { payments }) => all + payments, 0);
    const inCurrency = (kind: DaySum['kind'], currency: string) =>
      own.find((sum) => sum.kind === kind && sum.currency === currency)?.amount ?? '0';
    const currencies = [...new Set([...own, ...further].map(({ currency }) => currency))].sort();
    return {
      date,
      collected: count('collected'),
      declined: count('declined'),
      planned: count('planned') + further.length,
      isForeseen: date <= reach || walked !== null,
      sums: currencies.map((currency) => ({
        currency,
        collected: inCurrency('collected', currency),
        declined: inCurrency('declined', currency),
        planned: further
          .filter((payment) => payment.currency === currency)
          .reduce((sum, { amount }) => sum + BigInt(amount), BigInt(inCurrency('planned', currency)))
          .toString(),
      })),
    };
  });
}
