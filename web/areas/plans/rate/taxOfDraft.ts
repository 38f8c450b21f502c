import type { Terms } from '../../../../core/terms/schema.ts';
import type { TaxSaid } from '../../../../core/words/sayTax.ts';
import { useTaxSaid } from '../../../api/useLaw.ts';
import { useManner } from '../../../parts/manner.ts';
import type { RateDraft } from './draft.ts';
import { taxChoiceOf } from './taxChoice.ts';

/** The tax that a draft's prices pay today, as it is said beside them. */
export function useTaxOfDraft(draft: Pick<RateDraft, 'tax' | 'taxRate' | 'taxMode'>): TaxSaid {
  const { today } = useManner();
  const choice = taxChoiceOf(draft.tax);
  const isGood = draft.tax === 'own' && /^\d{1,3}(\.\d{1,4})?$/.test(draft.taxRate);
  const own = isGood ? ({ rate: draft.taxRate, mode: draft.taxMode } as Terms['tax']) : undefined;
  return useTaxSaid(
    choice.kind === 'tax' ? choice.id : choice.kind === 'none' ? null : undefined,
    own,
    today,
  );
}
