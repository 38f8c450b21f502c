import { alterTerms, type Alteration, type Given } from '../../core/alter/alterTerms.ts';
import type { RunningTerms } from '../../core/alter/runningTerms.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { formatDay } from '../../core/dates/day.ts';
import type { Payment } from '../../core/listing/payment.ts';
import { creditAfter } from '../../core/listing/listPayments.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import { saySettled } from '../../core/words/saySettled.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { SettlementView, WaysView, WayView } from './alterMessages.ts';

/*
 * What a change of a subscription that runs is settled with (rules 7), found by walking the terms as they stand and as
 * they would be from the place reached.
 */

/** So many payments are looked at for a settlement: it is in the first ones. */
const LOOKED_AT = 8;
/** So many payments are looked at for credit that is left: an end later than these uses up what there is. */
const TO_AN_END = 400;

interface Sides {
  readonly before: CompiledTerms;
  readonly after: CompiledTerms;
  readonly walk: WalkPosition | null;
}

/** How what runs is settled: the lines that the change brings into the payments to come. */
export function settlementOf({ before, after, walk }: Sides, currency: string): SettlementView | null {
  const there = new Set(firstOf(before, walk, LOOKED_AT).map(written));
  for (const payment of firstOf(after, walk, LOOKED_AT)) {
    const lines = payment.money.lines.filter(({ part }) => part !== undefined);
    if (lines.length === 0 || there.has(written(payment))) continue;
    const carried = payment.kind !== 'change';
    const sum = lines.reduce((total, { amount }) => total + amount, 0n);
    return {
      dueOn: formatDay(payment.dueOn),
      carried,
      total: (carried ? sum : payment.money.total).toString(),
      lines: lines.map(({ name, amount, part }) => ({
        says: part ? saySettled(name, part, currency) : name,
        amount: amount.toString(),
      })),
    };
  }
  return null;
}

/** Credit that the payments to come do not use up, where they come to an end. */
export function creditLeftOf(after: CompiledTerms, walk: WalkPosition | null): bigint {
  let left = BigInt(walk?.credit ?? 0);
  const payments = firstOf(after, walk, TO_AN_END);
  for (const payment of payments) left += creditAfter(payment);
  return payments.length < TO_AN_END ? left : 0n;
}

/**
 * What it comes to when the days of a moved date, or of a rest, are free and when they are paid for. Null of every other
 * alteration, and where the two come to the same.
 */
export function waysOf(
  running: RunningTerms,
  alteration: Alteration,
  today: string,
  compile: (terms: Terms) => CompiledTerms,
): WaysView | null {
  if (alteration.kind !== 'date' && alteration.kind !== 'pause until') return null;
  const way = (given: Given) => {
    const asked =
      alteration.kind === 'date' ? { ...alteration, days: given } : { ...alteration, rest: given };
    const altered = alterTerms(running, asked, today);
    return 'terms' in altered ? firstOf(compile(altered.terms), running.walk, LOOKED_AT) : [];
  };
  const [free, prorate] = [way('free'), way('prorate')];
  const others = new Set(free.map(written));
  const own = prorate.find((payment) => !others.has(written(payment)));
  if (own === undefined) return null;
  const same = free.find(({ from }) => from === own.from);
  return { free: viewOf(same), prorate: viewOf(own) };
}

function viewOf(payment: Payment | undefined): WayView {
  if (payment === undefined) return { amount: null, on: null, from: null, to: null };
  const { money, dueOn, kind, from, to } = payment;
  const days = money.lines.flatMap(({ part }) => part ?? []);
  return {
    amount: money.total.toString(),
    on: formatDay(dueOn),
    from: formatDay(kind === 'change' ? Math.min(...days.map((part) => part.from), to) : from),
    to: formatDay(kind === 'change' ? Math.max(...days.map((part) => part.to), from) : to),
  };
}

function firstOf(terms: CompiledTerms, walk: WalkPosition | null, count: number): Payment[] {
  const walking = new PaymentWalk(terms, walk ?? undefined);
  const payments: Payment[] = [];
  for (let next = walking.next(); next !== null && payments.length < count; next = walking.next())
    payments.push(next);
  return payments;
}

const written = ({ kind, from, to, money }: Payment) => `${kind} ${from} ${to} ${money.total}`;
