import type { FirstDue } from '../../../../core/listing/firstDues.ts';
import type { FirstLetterMessage } from '../../../../server/reckonings/firstLetterMessages.ts';
import type { EnrolDraft } from './enrolDraft.ts';
import type { Paying } from './paying.ts';

/** What the first letter of an enrolment is made of, as far as it is typed. */
export function letterOf(
  draft: EnrolDraft,
  of: { readonly paying: Paying; readonly shown: readonly FirstDue[] | null; readonly currency: string },
): FirstLetterMessage {
  const { paying, shown, currency } = of;
  const first = shown?.find(({ due }) => BigInt(due) > 0n);
  const { way } = paying;
  return {
    rateId: draft.rateId,
    ...(draft.who === 'existing' && draft.customerId !== '' ? { customerId: draft.customerId } : {}),
    ...(draft.who === 'new' ? { name: draft.name.trim() } : {}),
    starts: draft.starts,
    first: first ? { due: first.due, dueOn: first.dueOn, currency } : null,
    pays:
      way === 'transfer'
        ? 'invoice'
        : way === 'file' || way === 'invoice'
          ? way
          : way === 'mail' || way === 'link'
            ? 'asked'
            : 'given',
    firstWords: draft.firstWords.trim(),
  };
}
