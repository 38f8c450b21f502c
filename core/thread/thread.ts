import { formatDay, toDay } from '../dates/day.ts';
import { PaymentWalk } from '../listing/paymentWalk.ts';
import type { WalkPosition } from '../listing/walkPosition.ts';
import { outlineOf } from '../listing/outline.ts';
import { compileTerms } from '../terms/compile.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import type { Terms } from '../terms/schema.ts';
import { sayAmount } from '../words/amount.ts';
import { sayDate } from '../words/date.ts';

/** What a mark on a thread stands for; each has a shape of its own. */
export type MarkKind = 'collected' | 'planned' | 'declined' | 'retry' | 'notice' | 'end';

export interface ThreadMark {
  readonly kind: MarkKind;
  readonly date: string;
  /** What a reader hears of it: 'Mon 4 Jan 2027: £12.00 planned'. */
  readonly says: string;
}

/** A stretch of a thread, half-open. */
export interface ThreadStretch {
  readonly kind: 'trial' | 'paused';
  readonly from: string;
  readonly to: string;
}

/** One subscription's life along time: where it starts, its stretches and its marks. */
export interface Thread {
  readonly starts: string;
  readonly ends: string | null;
  readonly stretches: readonly ThreadStretch[];
  readonly marks: readonly ThreadMark[];
}

/**
 * The thread that terms foresee up to a day: trial, pauses, end, and the payments still to come.
 * @param until last day of the planned marks, inclusive
 * @param from where the walk stands, if some payments have been invoiced already
 * @param compiled the same terms, with the tax and calendar in force
 */
export function plannedThread(
  terms: Terms,
  until: string,
  from?: WalkPosition,
  compiled: CompiledTerms = compileTerms(terms),
): Thread {
  const { trialEnds, ends } = outlineOf(compiled);
  const marks: ThreadMark[] = [];
  const walk = new PaymentWalk(compiled, from);
  const last = toDay(until);
  for (let payment = walk.next(); payment !== null && payment.from <= last; payment = walk.next()) {
    const date = formatDay(payment.dueOn);
    marks.push({
      kind: 'planned',
      date,
      says: `${sayDate(date)}: ${sayAmount(payment.due, terms.currency)} planned`,
    });
  }
  const end = ends === null ? null : formatDay(ends);
  if (end !== null && end <= until) marks.push({ kind: 'end', date: end, says: `${sayDate(end)}: ends` });
  const pauses = 'lines' in terms ? (terms.pauses ?? []) : [];
  return {
    starts: terms.starts,
    ends: end,
    stretches: [
      ...(trialEnds === null
        ? []
        : [{ kind: 'trial', from: terms.starts, to: formatDay(trialEnds) } as const]),
      ...pauses.map(({ from: first, to }) => ({ kind: 'paused', from: first, to }) as const),
    ],
    marks,
  };
}
