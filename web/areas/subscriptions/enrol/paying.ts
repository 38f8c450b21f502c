import type { RateView } from '../../../../server/plans/messages.ts';
import type { PaymentKind } from '../../../../server/settings/messages.ts';
import type { EnrolmentMessage } from '../../../../server/subscriptions/messages.ts';
import type { GatewayAddress } from '../../../api/gateway.ts';
import type { TypedCard } from '../../../parts/card.ts';

/** The ways in which an enrolment may be paid, as they are chosen. */
export const PAYS = ['file', 'typed', 'reader', 'bank', 'mail', 'link', 'transfer', 'invoice'] as const;
export type Pays = (typeof PAYS)[number];

/** How an enrolment is paid, and whether a card is to be given for it. */
export interface Paying {
  /** The way that is chosen, or the first there is. */
  readonly way: Pays;
  /** The ways that the rate and the customer leave. */
  readonly ways: readonly Pays[];
  /** The same, as the server takes it. */
  readonly by: NonNullable<EnrolmentMessage['pays']>;
  /** By which of Setup's rules its due dates move to a day that is worked. */
  readonly paidAs: PaymentKind;
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
    /** Where bank accounts are given for this; null: nowhere. */
    readonly bank?: GatewayAddress | null;
    /** The method on file that would be charged is a bank account. */
    readonly fileIsBank?: boolean;
    /** It begins with a trial; absent: as the rate says. */
    readonly hasTrial?: boolean;
  },
): Paying {
  const { pays, card, hasCard, gateway, bank = null, fileIsBank = false } = typed;
  const methods = rate?.options.methods ?? ['card'];
  const ways = PAYS.filter((one) => {
    if (one === 'invoice') return methods.includes('invoice');
    if (one === 'transfer') return methods.includes('online transfer');
    const takesBank = methods.includes('bank debit') && bank !== null;
    if (one === 'bank') return takesBank;
    if (one === 'file') return hasCard && methods.includes(fileIsBank ? 'bank debit' : 'card');
    if (one === 'mail' || one === 'link') return !hasCard && (methods.includes('card') || takesBank);
    if (!methods.includes('card')) return false;
    if (one === 'typed') return gateway?.phone !== false;
    return gateway?.reader === true;
  });
  const way = pays !== null && ways.includes(pays) ? pays : (ways[0] ?? 'typed');
  const hasTrial = typed.hasTrial ?? rate?.terms.trial !== undefined;
  const waits = hasTrial ? (rate?.options.withoutMethod ?? 'needed') : 'needed';
  const trialWaits = waits === 'needed' ? null : waits;
  const begun = card.number.trim() !== '' || card.expires.trim() !== '';
  const needsCard = way === 'typed' && trialWaits === null;
  return {
    ...{ way, ways, needsCard, trialWaits },
    by: way === 'file' || way === 'typed' || way === 'reader' ? 'card' : way,
    paidAs:
      way === 'invoice' || way === 'transfer'
        ? 'by invoice'
        : way === 'bank' || (way === 'file' && fileIsBank)
          ? 'bank debit'
          : 'card',
    takesCard: way === 'typed' && (needsCard || begun),
  };
}
