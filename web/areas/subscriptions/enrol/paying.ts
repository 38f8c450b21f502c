import type { RateView } from '../../../../server/plans/messages.ts';
import type { EnrolmentMessage } from '../../../../server/subscriptions/messages.ts';
import type { GatewayAddress } from '../../../api/gateway.ts';
import type { TypedCard } from '../../../parts/CardFields.tsx';

/** The ways in which an enrolment may be paid, as they are chosen. */
export const PAYS = ['file', 'typed', 'reader', 'mail', 'link', 'invoice'] as const;
export type Pays = (typeof PAYS)[number];

/** How an enrolment is paid, and whether a card is to be given for it. */
export interface Paying {
  /** The way that is chosen, or the first there is. */
  readonly way: Pays;
  /** The ways that the rate and the customer leave. */
  readonly ways: readonly Pays[];
  /** The same, as the server takes it. */
  readonly by: NonNullable<EnrolmentMessage['pays']>;
  readonly needsCard: boolean;
  /** The card that is typed is taken. */
  readonly takesCard: boolean;
  /** What a trial does at its end without a card; null: it cannot begin without one. */
  readonly trialWaits: 'end' | 'pause' | 'invoice' | null;
}

/** How a rate is paid, by what is chosen and typed; without a rate as most are, with a card. */
export function payingOf(
  rate: RateView | undefined,
  typed: {
    readonly pays: Pays | null;
    readonly card: TypedCard;
    readonly hasCard: boolean;
    /** What the gateway that keeps cards for this can do. */
    readonly gateway?: GatewayAddress | null;
  },
): Paying {
  const { pays, card, hasCard, gateway } = typed;
  const methods = rate?.options.methods ?? ['card'];
  const ways = PAYS.filter((one) => {
    if (one === 'invoice') return methods.includes('invoice');
    if (!methods.includes('card')) return false;
    if (one === 'file') return hasCard;
    if (one === 'typed') return gateway?.phone !== false;
    return one === 'reader' ? gateway?.reader === true : !hasCard;
  });
  const way = pays !== null && ways.includes(pays) ? pays : (ways[0] ?? 'typed');
  const waits = rate?.terms.trial !== undefined ? rate.options.withoutMethod : 'needed';
  const trialWaits = waits === 'needed' ? null : waits;
  const begun = card.number.trim() !== '' || card.expires.trim() !== '';
  const needsCard = way === 'typed' && trialWaits === null;
  return {
    ...{ way, ways, needsCard, trialWaits },
    by: way === 'mail' || way === 'link' || way === 'invoice' ? way : 'card',
    takesCard: way === 'typed' && (needsCard || begun),
  };
}
