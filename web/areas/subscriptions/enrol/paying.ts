import type { RateView } from '../../../../server/plans/messages.ts';
import type { TypedCard } from '../../../parts/CardFields.tsx';

/** How an enrolment is paid, and whether a card is to be given for it. */
export interface Paying {
  readonly by: 'card' | 'invoice';
  /** A card is on file and is charged. */
  readonly hasCard: boolean;
  readonly needsCard: boolean;
  /** The card that is typed is taken. */
  readonly takesCard: boolean;
  /** What a trial does at its end without a card; null: it cannot begin without one. */
  readonly trialWaits: 'end' | 'pause' | 'invoice' | null;
}

/** How a rate is paid, by what is chosen and typed. */
export function payingOf(
  rate: RateView | undefined,
  typed: { readonly pays: 'card' | 'invoice'; readonly card: TypedCard; readonly hasCard: boolean },
): Paying {
  const { pays, card, hasCard } = typed;
  const options = rate?.options;
  const by = options && !options.methods.includes(pays) ? (options.methods[0] ?? 'card') : pays;
  const waits = rate?.terms.trial !== undefined ? options?.withoutMethod : 'needed';
  const trialWaits = waits === undefined || waits === 'needed' ? null : waits;
  const needsCard = by === 'card' && trialWaits === null && !hasCard;
  const begun = card.number.trim() !== '' || card.expires.trim() !== '';
  return { by, hasCard, needsCard, takesCard: by === 'card' && !hasCard && (needsCard || begun), trialWaits };
}
