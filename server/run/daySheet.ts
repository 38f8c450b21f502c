import { formatDay, toDay } from '../../core/dates/day.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { readDaySums, type DaySum } from '../forecast/daySums.sql.ts';
import { foreseeingNow } from '../forecast/lawChanges.ts';
import { lastForeseen, openDuesByDay, plannedRows } from '../forecast/planned.sql.ts';
import { walkAhead, type PlannedPayment } from '../forecast/walkAhead.ts';
import { PAGE_SIZE } from '../http/list.ts';
import {
  collectedRows,
  countHappened,
  declinedRows,
  happenedRows,
  needsOf,
  withBanks,
  type DeclinedRow,
  type Slice,
} from './daySheet.sql.ts';
import { moneyOfDay } from './moneyOfDay.ts';
import type { DaySheet, FailedMovement, RailDay, SHEET_PARTS, SheetPart, Span, SpanSum } from './messages.ts';

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
  const walked = await walkBeyond(almanac, date, tomorrow, today);
  const isForeseen = walked !== null;
  const [
    sums,
    collected,
    failed,
    needs,
    happened,
    happenedCount,
    day,
    planned,
    next,
    foreseeing,
    banks,
    money,
  ] = await Promise.all([
    sumsOfDays(almanac, date, tomorrow, today, walked ?? []),
    date > today ? none : collectedRows(almanac, date, SHOWN),
    date > today ? none : declinedRows(almanac, date, SHOWN),
    date > today ? none : needsOf(almanac, date, today),
    happenedRows(almanac, date, SHOWN),
    countHappened(almanac, date),
    db.row<{ finished: boolean }>(
      'select finished_at is not null as finished from days where business_date = $date',
      { date },
    ),
    isAhead && isForeseen ? plannedOn(almanac, date, SHOWN, walked, today) : none,
    isAhead && isForeseen ? plannedOn(almanac, tomorrow, NAMED, walked, today) : none,
    isAhead ? foreseeingNow(almanac, today) : null,
    date === today ? withBanks(almanac) : none,
    moneyOfDay(almanac, date),
  ]);
  const part = <Row>(
    on: string,
    kind: DaySum['kind'],
    rows: readonly Row[],
    { limit } = SHOWN,
  ): SheetPart<Row> => {
    const own = sums.filter((sum) => sum.date === on && sum.kind === kind);
    return {
      rows,
      more: rows.length === limit,
      total: own.reduce((all, { payments }) => all + payments, 0),
      sums: own.map(({ currency, amount }) => ({ currency, amount })),
    };
  };
  return {
    date,
    isBusinessDay: date === today,
    finished: day?.finished ?? false,
    isForeseen,
    foreseeing,
    money,
    collected: part(date, 'collected', collected),
    failed: part(date, 'declined', failed.map(sayDeclined)),
    planned: part(date, 'planned', planned),
    tomorrow: { date: tomorrow, ...part(tomorrow, 'planned', next, NAMED) },
    withBanks: banks,
    needs,
    happened: { rows: happened, more: happened.length < happenedCount, total: happenedCount, sums: [] },
  };
}

/** More rows of one part of a sheet. */
export async function readDayPart(
  almanac: Almanac,
  date: string,
  part: (typeof SHEET_PARTS)[number],
  page: number,
): Promise<readonly object[]> {
  const slice = { limit: PAGE_SIZE, offset: (page - 1) * PAGE_SIZE };
  switch (part) {
    case 'collected':
      return collectedRows(almanac, date, slice);
    case 'failed':
      return (await declinedRows(almanac, date, slice)).map(sayDeclined);
    case 'planned': {
      const today = await businessDateOf(almanac);
      const walked = await walkBeyond(almanac, date, date, today);
      return date < today || walked === null ? [] : plannedOn(almanac, date, slice, walked, today);
    }
    case 'happened':
      return happenedRows(almanac, date, slice);
  }
}

/** The charges of days that lie further ahead than what is stored, walked to; null where there are too many for that. */
async function walkBeyond(
  almanac: Almanac,
  from: string,
  until: string,
  today: string,
): Promise<readonly PlannedPayment[] | null> {
  const beyond = formatDay(toDay(lastForeseen(today)) + 1);
  return until < beyond ? [] : walkAhead(almanac, from > beyond ? from : beyond, until);
}

/** Some of the planned charges of a day, from what is stored or, further ahead, from what was walked to. */
function plannedOn(
  almanac: Almanac,
  date: string,
  slice: Slice,
  walked: readonly PlannedPayment[],
  today: string,
) {
  const isStored = date <= lastForeseen(today);
  return plannedRows(almanac, date, slice, isStored ? undefined : walked.filter((one) => one.date === date));
}

/**
 * What days come to, by kind and currency. What is planned counts from the business day on: as it is stored, as far as that
 * reaches, and what was walked to beyond; and what of open invoices falls due.
 */
async function sumsOfDays(
  almanac: Almanac,
  from: string,
  until: string,
  today: string,
  walked: readonly PlannedPayment[] = [],
): Promise<DaySum[]> {
  const ahead = from < today ? today : from;
  const reach = lastForeseen(today);
  const [stored, open] = await Promise.all([
    readDaySums(almanac, from, until),
    until < today ? [] : openDuesByDay(almanac, ahead, until),
  ]);
  const sums = new Map<string, DaySum>();
  const moved = stored.filter(({ kind, date }) => kind !== 'planned' || (today <= date && date <= reach));
  const beyond = walked.map((payment) => ({ ...payment, payments: 1 }));
  const planned = [...open, ...beyond].map((one) => ({ ...one, kind: 'planned' as const }));
  for (const one of [...moved, ...planned]) {
    const key = `${one.date} ${one.kind} ${one.currency}`;
    const before = sums.get(key);
    const amount = (BigInt(one.amount) + BigInt(before?.amount ?? 0)).toString();
    const { date, kind, currency } = one;
    sums.set(key, { date, kind, currency, payments: one.payments + (before?.payments ?? 0), amount });
  }
  return [...sums.values()].sort((a, b) => a.currency.localeCompare(b.currency));
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
  const walked = await walkBeyond(almanac, from, until, today);
  const sums = await sumsOfDays(almanac, from, until, today, walked ?? []);
  return Array.from({ length: last - first + 1 }, (_, i) => {
    const date = formatDay(first + i);
    const own = sums.filter((sum) => sum.date === date);
    const count = (kind: DaySum['kind']) =>
      own.filter((sum) => sum.kind === kind).reduce((all, { payments }) => all + payments, 0);
    const inCurrency = (kind: DaySum['kind'], currency: string) =>
      own.find((sum) => sum.kind === kind && sum.currency === currency)?.amount ?? '0';
    const currencies = [...new Set(own.map(({ currency }) => currency))];
    return {
      date,
      collected: count('collected'),
      declined: count('declined'),
      planned: count('planned'),
      isForeseen: date <= reach || walked !== null,
      sums: currencies.map((currency) => ({
        currency,
        collected: inCurrency('collected', currency),
        planned: inCurrency('planned', currency),
      })),
    };
  });
}
