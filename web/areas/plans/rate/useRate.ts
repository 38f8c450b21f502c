import { useDeferredValue, useMemo } from 'react';
import { toDay } from '../../../../core/dates/day.ts';
import { paymentsOf } from '../../../../core/listing/listPayments.ts';
import type { Payment } from '../../../../core/listing/payment.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import type { CompiledTerms } from '../../../../core/agreed/terms.ts';
import { RefusedTerms, type Fault } from '../../../../core/terms/fault.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import { trapsOf, type Trap } from '../../../../core/words/traps.ts';
import { composeTerms, type RateTerms } from '../../../../core/offer/composeTerms.ts';
import { startWithStub } from './Choices.tsx';
import { termsOf, type RateDraft } from './draft.ts';
import type { Missing } from '../../../parts/useDraftForm.ts';
import { inFormWords } from '../../../parts/formWords.ts';
import { faultsOfOptions } from './OptionFields.tsx';
import { startOf } from './optionsDraft.ts';

/** What a draft comes to for somebody who starts on a day. */
export interface ComputedRate {
  /** Without the day of start: what is stored. */
  readonly terms: Record<string, unknown>;
  /** With it: what is listed. */
  readonly sample: Record<string, unknown>;
  readonly faults: readonly Fault[];
  readonly faultAt: (pointer: string) => string | undefined;
  /** What is still to be given or picked before it can be saved, in words. */
  readonly missing: readonly Missing[];
  readonly traps: readonly Trap[];
  /** Sum of what falls due within a year of the start, minor units; null while it cannot be computed. */
  readonly firstYear: bigint | null;
}

/** Computes a draft, by the calculation that will charge it. */
export function computeRate(
  draft: RateDraft,
  starts: string,
  compile: (terms: Terms) => CompiledTerms,
  kept: Readonly<Record<string, unknown>> = NOTHING,
): ComputedRate {
  const terms = { ...kept, ...termsOf(draft) };
  const sample = composeTerms(terms as unknown as RateTerms, {
    starts,
    recurringStart: faultsOfOptions(draft.options).has('recurringStart') ? null : startOf(draft.options),
  }) as unknown as Record<string, unknown>;
  const checked = checkTerms(sample);
  let faults: readonly Fault[] = checked.ok ? [] : checked.faults.map(inFormWords);
  let payments: Payment[] = [];
  let firstYear: bigint | null = null;
  if (checked.ok) {
    try {
      payments = [...paymentsOf(compile(checked.terms), { count: 60 })];
      const end = toDay(starts) + 365;
      firstYear = payments.reduce((sum, { dueOn, due }) => (dueOn < end ? sum + due : sum), 0n);
    } catch (error) {
      if (!(error instanceof RefusedTerms)) throw error;
      faults = error.faults.map(inFormWords);
    }
  }
  const missing: Missing[] = [];
  const need = (field: string, says: string, isMissing: boolean) => {
    if (isMissing) missing.push({ field, says });
  };
  need('rate-name', 'the name of the rate', draft.name.trim() === '');
  need(
    'stub',
    'what the first part period costs',
    draft.stub === '' && startWithStub(draft, starts) !== null,
  );
  const asksEnd = draft.ends === 'until' && draft.endStub === '' && draft.anchor.kind !== 'none';
  need('endStub', 'what the last period costs', asksEnd);
  for (const [field, says] of faultsOfOptions(draft.options)) need(field, says.replace(/\.$/, ''), true);
  for (const { pointer, detail } of faults) need(pointer, detail.replace(/\.$/, ''), true);
  return {
    terms,
    sample,
    faults,
    faultAt: (pointer) => faults.find((fault) => fault.pointer === pointer)?.detail,
    missing,
    traps: checked.ok ? trapsOf(checked.terms, payments) : [],
    firstYear,
  };
}

const NOTHING = {};

/** The same as it is typed. Typing goes first: what is computed may lag a moment behind the newest key. */
export function useRate(
  draft: RateDraft,
  starts: string,
  compile: (terms: Terms) => CompiledTerms,
  kept: Readonly<Record<string, unknown>> = NOTHING,
): ComputedRate {
  const settled = useDeferredValue(draft);
  return useMemo(() => computeRate(settled, starts, compile, kept), [settled, starts, compile, kept]);
}
