import type { RateDraft } from './draft.ts';

type TaxChoice = { readonly kind: 'default' | 'none' } | { readonly kind: 'tax'; readonly id: string };

/** Which tax of Setup a draft chooses; one that is fixed in the terms counts as none of Setup. */
export function taxChoiceOf(tax: RateDraft['tax']): TaxChoice {
  if (tax === 'default' || tax === 'none') return { kind: tax };
  return tax === 'own' ? { kind: 'none' } : { kind: 'tax', id: tax.slice('tax:'.length) };
}

/** The same the other way round, for a draft of a rate that is stored. */
export function taxOfChoice(choice: TaxChoice): RateDraft['tax'] {
  return choice.kind === 'tax' ? `tax:${choice.id}` : choice.kind;
}
