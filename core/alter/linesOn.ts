import { toDay } from '../dates/day.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import type { WalkPosition } from '../listing/walkPosition.ts';
import { LinesInForce } from '../settlement/linesInForce.ts';
import type { RecurringTerms, TermsLine } from '../terms/schema.ts';
import type { RunningTerms } from './runningTerms.ts';

/** The lines in force on a day, as the terms list them: brought in again as they stand, they are kept (rules 7). */
export function linesListedOn(terms: RecurringTerms, date: string): readonly TermsLine[] {
  return listedOn(terms, date).lines;
}

function listedOn(
  terms: RecurringTerms,
  date: string,
): { readonly lines: readonly TermsLine[]; readonly change: number } {
  const changes = terms.changes ?? [];
  const change = changes.findLastIndex((one) => one.lines !== undefined && one.date <= date);
  return { lines: changes[change]?.lines ?? terms.lines, change };
}

/**
 * The lines in force on a day that is not charged yet, with what will be left on that day of their first prices and
 * discounts: what a line that takes the place of one of them, and so counts anew, goes on with.
 */
export function linesLeftOn(running: RunningTerms, terms: RecurringTerms, date: string): TermsLine[] {
  const { lines, change } = listedOn(terms, date);
  const { compiled } = running;
  const walk = placeBefore(running, date);
  const inForce = new LinesInForce(compiled.recurring, walk.lines);
  for (let next = walk.lines.linesOf + 1; next <= change; next += 1) inForce.bring(next);
  return lines.map(({ intro, discounts, ...line }, i) => {
    const first = (intro?.payments ?? 0) - inForce.fullPricesOf(i);
    const lasting = (discounts ?? []).flatMap(({ payments, ...off }) => {
      if (payments === undefined) return [off];
      const left = payments - inForce.paymentsOf(i);
      return left > 0 ? [{ ...off, payments: left }] : [];
    });
    return {
      ...line,
      ...(intro && first > 0 ? { intro: { ...intro, payments: first } } : {}),
      ...(lasting.length > 0 ? { discounts: lasting } : {}),
    };
  });
}

/** The place that the walk will have reached before a day: with everything charged whose boundary lies before it. */
function placeBefore({ compiled, walk }: RunningTerms, date: string): WalkPosition {
  const day = toDay(date);
  const walking = new PaymentWalk(compiled, walk ?? undefined);
  let reached = walking.position();
  for (let next = walking.next(); next !== null && next.from < day; next = walking.next())
    reached = walking.position();
  return reached;
}
