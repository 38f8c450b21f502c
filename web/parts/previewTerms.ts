import { toDay, formatDay } from '../../core/dates/day.ts';
import { issueDay } from '../../core/listing/issueDay.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { paymentsOf } from '../../core/listing/listPayments.ts';
import { checkTerms } from '../../core/terms/check.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { RefusedTerms, type Fault } from '../../core/terms/fault.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { plannedThread, type Thread } from '../../core/thread/thread.ts';
import type { Charge, Rest } from './Charges.tsx';

export interface Preview {
  readonly currency: string;
  readonly charges: readonly Charge[];
  /** Of terms that end: what comes after the charges listed, and the sum of all. */
  readonly rest: Rest | null;
  readonly thread: Thread;
  readonly from: string;
  readonly to: string;
}

/** Payments that are added up of terms that end; terms with more have no sum of all. */
const MOST_OF_AN_END = 600;

/**
 * What terms come to, computed here by the same calculation that will charge them; or what is wrong with them.
 * @param issueBefore so many days before it begins a full period is invoiced
 */
export function previewTerms(
  document: unknown,
  compile: (terms: Terms) => CompiledTerms = compileTerms,
  { count = 12, issueBefore = 0 }: { readonly count?: number; readonly issueBefore?: number } = {},
): Preview | { readonly faults: readonly Fault[] } {
  const checked = checkTerms(document);
  if (!checked.ok) return { faults: checked.faults };
  try {
    const compiled = compile(checked.terms);
    const isFinite = !('lines' in checked.terms) || checked.terms.ends !== undefined;
    const most = isFinite ? MOST_OF_AN_END : count + 1;
    const payments = [...paymentsOf(compiled, { count: most })];
    const { trialEnds } = outlineOf(compiled);
    const trialEndsOn = trialEnds === null ? null : formatDay(trialEnds);
    const charges = payments.slice(0, count).map((payment) => {
      const issued = issueDay(payment, { issueBefore, startsOn: checked.terms.starts, trialEndsOn });
      return {
        ...{ date: formatDay(payment.dueOn), kind: payment.kind },
        ...{ due: payment.due, tax: payment.money.tax },
        ...(payment.dueOn === issued ? {} : { issuedOn: formatDay(issued) }),
      };
    });
    const doesEnd = payments.length < most;
    const rest = doesEnd
      ? {
          count: payments.length - charges.length,
          total: payments.reduce((sum, { due }) => sum + due, 0n),
        }
      : null;
    const { starts, currency } = checked.terms;
    const last = charges.at(-1)?.date ?? starts;
    const from = formatDay(toDay(charges[0] && charges[0].date < starts ? charges[0].date : starts) - 3);
    const to = formatDay(Math.min(toDay(last) + 14, toDay('9999-12-31')));
    return {
      currency,
      charges,
      rest,
      thread: plannedThread(checked.terms, last, undefined, compiled),
      from,
      to,
    };
  } catch (error) {
    if (error instanceof RefusedTerms) return { faults: error.faults };
    throw error;
  }
}
