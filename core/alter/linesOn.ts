import { toDay } from '../dates/day.ts';
import { PaymentWalk, type WalkPosition } from '../listing/paymentWalk.ts';
import type { RecurringTerms, TermsLine } from '../terms/schema.ts';
import type { RunningTerms } from './runningTerms.ts';

/** The lines in force on a day, as the terms list them. */
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
 * discounts, so that they can be brought in anew.
 */
export function linesOn(running: RunningTerms, terms: RecurringTerms, date: string): TermsLine[] {
  const { lines, change } = listedOn(terms, date);
  const walk = placeBefore(running, date);
  if (change > walk.linesOf) return [...lines];
  return lines.map(({ intro, discounts, ...line }) => {
    const first = (intro?.payments ?? 0) - walk.fullSinceLines;
    const lasting = (discounts ?? []).flatMap(({ payments, ...off }) => {
      if (payments === undefined) return [off];
      const left = payments - walk.paymentsSinceLines;
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
