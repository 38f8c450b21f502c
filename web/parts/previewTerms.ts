import { toDay, formatDay } from '../../core/dates/day.ts';
import { paymentsOf } from '../../core/listing/listPayments.ts';
import { checkTerms } from '../../core/terms/check.ts';
import { compileTerms, type CompiledTerms } from '../../core/terms/compile.ts';
import { RefusedTerms, type Fault } from '../../core/terms/fault.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { plannedThread, type Thread } from '../../core/thread/thread.ts';
import type { Charge } from './Charges.tsx';

export interface Preview {
  readonly currency: string;
  readonly charges: readonly Charge[];
  readonly thread: Thread;
  readonly from: string;
  readonly to: string;
}

/** What terms come to, computed here by the same calculation that will charge them; or what is wrong with them. */
export function previewTerms(
  document: unknown,
  compile: (terms: Terms) => CompiledTerms = compileTerms,
  count = 12,
): Preview | { readonly faults: readonly Fault[] } {
  const checked = checkTerms(document);
  if (!checked.ok) return { faults: checked.faults };
  try {
    const compiled = compile(checked.terms);
    const charges = [...paymentsOf(compiled, { count })].map((payment) => ({
      date: formatDay(payment.dueOn),
      kind: payment.kind,
      due: payment.due,
    }));
    const { starts, currency } = checked.terms;
    const last = charges.at(-1)?.date ?? starts;
    const from = formatDay(toDay(charges[0] && charges[0].date < starts ? charges[0].date : starts) - 3);
    const to = formatDay(Math.min(toDay(last) + 14, toDay('9999-12-31')));
    return { currency, charges, thread: plannedThread(checked.terms, last, undefined, compiled), from, to };
  } catch (error) {
    if (error instanceof RefusedTerms) return { faults: error.faults };
    throw error;
  }
}
