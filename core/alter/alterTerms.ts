import { formatDay, toDay, type Day } from '../dates/day.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import { checkTerms } from '../terms/check.ts';
import { outlineOf } from '../listing/outline.ts';
import type { RecurringTerms, Terms, TermsChange, TermsDiscount, TermsLine } from '../terms/schema.ts';
import { sayDate } from '../words/date.ts';
import { linesLeftOn, linesListedOn } from './linesOn.ts';
import type { RunningTerms } from './runningTerms.ts';
import { sharesOf } from './sharesOf.ts';

/** From when something else holds: at once, with what is left of the period settled, or from the next renewal. */
export type From = 'now' | 'renewal';

/** What can be altered of terms that run. */
export type Alteration =
  | { readonly kind: 'end'; readonly afterPayments?: number | undefined }
  | { readonly kind: 'go on' }
  | { readonly kind: 'pause'; readonly periods: number }
  /** It rests from the next renewal up to a day; what is left then of the period is charged by the day, or free. */
  | { readonly kind: 'pause until'; readonly to: string; readonly rest: Given }
  /** The next renewal moves to a day; the days that this gives or takes are paid for, or free. */
  | { readonly kind: 'date'; readonly to: string; readonly days: Given; readonly from: 'now' }
  | { readonly kind: 'quantity'; readonly line: number; readonly quantity: number; readonly from: From }
  | { readonly kind: 'lines'; readonly lines: readonly TermsLine[]; readonly from: From }
  | { readonly kind: 'discount'; readonly discount: TermsDiscount }
  | { readonly kind: 'once'; readonly name: string; readonly amount: string; readonly from: From };

/** Whether days are given, or charged by the day as in the rules. */
export type Given = 'free' | 'prorate';

export type Altered = { readonly terms: Terms } | { readonly refused: string };

/** So far ahead something may be moved to: ten years. */
const FURTHEST_DAYS = 3653;
const TOO_FAR = 'Give a day within ten years.';

/**
 * Terms with an alteration from today on, by changes that lie beyond everything that was charged, so that nothing
 * that has been invoiced comes out otherwise (rules 7).
 * @param today the business day, YYYY-MM-DD
 */
export function alterTerms(running: RunningTerms, alteration: Alteration, today: string): Altered {
  const { terms } = running;
  if (!('lines' in terms)) return { refused: 'A one-off sale cannot be altered.' };
  const altered = alteredBy(running, terms, alteration, today);
  if (typeof altered === 'string') return { refused: altered };
  const checked = checkTerms(altered);
  return checked.ok
    ? { terms: checked.terms }
    : { refused: checked.faults[0]?.detail ?? 'These terms cannot be altered so.' };
}

function alteredBy(
  running: RunningTerms,
  terms: RecurringTerms,
  alteration: Alteration,
  today: string,
): RecurringTerms | string {
  if (alteration.kind === 'go on') {
    const { ends } = outlineOf(running.compiled);
    if (ends !== null && ends <= toDay(today)) return 'It has ended: enrol anew instead.';
    return withChange(terms, { date: firstFreeDay(running, today), ends: terms.ends ?? null });
  }
  if (alteration.kind === 'once') {
    const { name, amount, from } = alteration;
    const date = effectiveDay(running, from, today);
    return { ...terms, once: [...(terms.once ?? []), { name, amount, date }] };
  }
  const firstFree = firstFreeDay(running, today);
  const next = boundariesAhead(running, 1)[0];
  // In the last period nothing begins any more; what changes its lines from now on still settles it.
  if (next === undefined && !(changesNow(alteration) && runsOn(running, firstFree)))
    return 'No further period begins: there is nothing left to alter.';
  const boundary = next ?? toDay(firstFree);
  switch (alteration.kind) {
    case 'end': {
      const { afterPayments = 0 } = alteration;
      const at = running.walk?.timetable;
      const agreed = at ? at.ends : (running.compiled.recurring?.ends ?? null);
      if (agreed !== null && 'after' in agreed && agreed.after <= afterPayments)
        return `It ends after ${agreed.after} payments anyway.`;
      const ends =
        afterPayments > (at?.fullPrices ?? 0)
          ? { after: afterPayments }
          : { until: formatDay(Math.max(paidUntil(running, boundary, firstFree) - 1, toDay(terms.starts))) };
      return withChange(terms, { date: firstFree, ends });
    }
    case 'pause': {
      const ahead = boundariesAhead(running, alteration.periods + 1);
      const [from, to] = [ahead[0], ahead[alteration.periods]];
      if (from === undefined || to === undefined) return 'It ends before it would go on after this pause.';
      const pauses = [...(terms.pauses ?? []), { from: formatDay(from), to: formatDay(to) }];
      return { ...terms, pauses: pauses.sort((a, b) => (a.from < b.from ? -1 : 1)) };
    }
    case 'pause until': {
      const { to, rest } = alteration;
      if (toDay(to) > toDay(today) + FURTHEST_DAYS) return TOO_FAR;
      if (toDay(to) <= boundary) return `It rests from ${sayDate(formatDay(boundary))} on: give a later day.`;
      const pause = { from: formatDay(boundary), to, ...(rest === 'prorate' ? { rest } : {}) };
      const pauses = [...(terms.pauses ?? []), pause];
      return { ...terms, pauses: pauses.sort((a, b) => (a.from < b.from ? -1 : 1)) };
    }
    case 'date': {
      const { to, days } = alteration;
      const rests = restsBefore(running.walk, boundary);
      if (rests !== null)
        return `It rests from ${sayDate(formatDay(rests))} on: move the date when it is on again, or take the rest back first.`;
      if (toDay(to) > toDay(today) + FURTHEST_DAYS) return TOO_FAR;
      if (to <= firstFree) return `Give a day after ${sayDate(firstFree)}.`;
      if (to === formatDay(boundary)) return 'That is the day already.';
      const prorates = days === 'prorate' ? ({ nextStub: days, settle: 'now' } as const) : {};
      return withChange(terms, { date: firstFree, next: to, ...prorates });
    }
    case 'quantity': {
      const { line: at, quantity, from } = alteration;
      const date = from === 'now' ? firstFree : formatDay(boundary);
      const counted = (lines: readonly TermsLine[]) =>
        lines.map((line, i) => (i === at ? { ...line, quantity } : line));
      if (counted(linesListedOn(terms, date))[at] === undefined) return 'There is no such line.';
      const changed = withChange(terms, { date, lines: counted(linesListedOn(terms, date)) }, from);
      return {
        ...changed,
        changes: (changed.changes ?? []).map((change) =>
          change.date > date && change.lines ? { ...change, lines: counted(change.lines) } : change,
        ),
      };
    }
    case 'lines': {
      const date = alteration.from === 'now' ? firstFree : formatDay(boundary);
      if ((terms.changes ?? []).some((change) => change.date > date && change.lines))
        return 'A later change of its prices is set already; let that come first.';
      return withChange(terms, { date, lines: [...alteration.lines] }, alteration.from);
    }
    case 'discount': {
      const { to, ...off } = alteration.discount;
      if (to === 'once') return 'This takes something off amounts paid once, and there are none to come.';
      const date = formatDay(boundary);
      const before = linesLeftOn(running, terms, date);
      const shares = off.amount === undefined ? null : sharesOf(off.amount, before, terms.currency);
      const lines = before.map((line, i): TermsLine => {
        const taken = shares === null ? off : { ...off, amount: shares[i] ?? '0' };
        const takesNone = taken.amount !== undefined && Number(taken.amount) === 0;
        return takesNone ? line : { ...line, discounts: [...(line.discounts ?? []), taken] };
      });
      return withChange(terms, { date, lines }, 'renewal');
    }
  }
}

/** The day from which an alteration holds: the first that is not charged yet, or the next renewal. */
export function effectiveDay(running: RunningTerms, from: From, today: string): string {
  const boundary = from === 'now' ? undefined : boundariesAhead(running, 1)[0];
  return boundary === undefined ? firstFreeDay(running, today) : formatDay(boundary);
}

/** Whether an alteration changes the lines of what runs. */
function changesNow(alteration: Alteration): boolean {
  return (alteration.kind === 'quantity' || alteration.kind === 'lines') && alteration.from === 'now';
}

/** Whether a period that was charged still runs on a day. */
function runsOn({ walk }: RunningTerms, day: string): boolean {
  const stretch = walk?.timetable?.phase === 'stretch' ? walk.timetable.stretch : null;
  return stretch !== null && stretch.charge === 'charged' && toDay(day) < stretch.end;
}

/** The day on which what runs gives way to a rest, where one comes before the next renewal; null where none does. */
function restsBefore(walk: RunningTerms['walk'], boundary: Day): Day | null {
  const stretch = walk?.timetable?.phase === 'stretch' ? walk.timetable.stretch : null;
  return stretch !== null && stretch.charge === 'charged' && stretch.end < boundary ? stretch.end : null;
}

/** The days on which the next stubs and periods begin that are not invoiced yet. */
export function boundariesAhead({ compiled, walk }: RunningTerms, count: number): Day[] {
  const ahead = new PaymentWalk(compiled, walk ?? undefined);
  const days: Day[] = [];
  for (let payment = ahead.next(); payment !== null && days.length < count; payment = ahead.next())
    if (payment.kind === 'period' || payment.kind === 'stub') days.push(payment.from);
  return days;
}

/**
 * The first day that is not paid for: the end of the period that runs, also where a rest follows it, so that whoever
 * ends it does not wait for a renewal that a rest has put off. While it rests, the first day free to change.
 */
function paidUntil({ walk }: RunningTerms, boundary: Day, firstFree: string): Day {
  const stretch = walk?.timetable?.stretch;
  if (!stretch || walk?.timetable?.phase !== 'stretch') return boundary;
  const rests = stretch.charge === 'skipped' || stretch.to <= toDay(firstFree);
  return Math.min(boundary, rests ? toDay(firstFree) + 1 : stretch.to);
}

/** Today, or the first day after it that nothing was charged or settled on yet. */
function firstFreeDay({ terms, compiled, walk }: RunningTerms, today: string): string {
  const starts = terms.starts > today ? terms.starts : today;
  if (walk === null) return starts;
  const day = toDay(starts);
  const at = walk.timetable;
  // A period may be charged some days before it begins, where working days move that: it lies behind us then.
  const charged = at?.stretch?.from ?? -Infinity;
  const begun = at !== null && (charged >= day || (at.phase === 'trial' && starts === terms.starts));
  const settled = 'lines' in terms ? terms.changes?.[(at?.change ?? 0) - 1]?.date : undefined;
  return formatDay(
    Math.max(
      begun ? Math.max(day, charged) + 1 : day,
      settled === undefined ? day : toDay(settled) + 1,
      (compiled.once[walk.once - 1]?.date ?? day - 1) + 1,
    ),
  );
}

/** Terms with one more change, laid over one of the same day. */
function withChange(terms: RecurringTerms, change: TermsChange, from: From = 'renewal'): RecurringTerms {
  const changes = terms.changes ?? [];
  const settled = change.lines ? { settle: from === 'now' ? ('now' as const) : ('none' as const) } : {};
  const there = changes.find(({ date }) => date === change.date);
  // What is to be settled now is settled with whatever else changes on that day.
  const asked = from === 'now' && change.lines ? settled : {};
  const all = there
    ? changes.map((one) => (one === there ? { ...one, ...change, ...asked } : one))
    : [...changes, { ...settled, ...change }];
  return { ...terms, changes: all.sort((a, b) => (a.date < b.date ? -1 : 1)) };
}
