import type { RefundView } from '../refunds/messages.ts';
import type { Channel } from './channel.ts';
import type { Means } from './meansKinds.ts';
import type { AttemptState } from './states.ts';

/** The states of a payment as lists show them: waiting is a charge whose account cannot be asked. */
export type ShownPaymentState = AttemptState | 'waiting' | 'refunded' | 'part refunded';

/** What payments can be asked for. */
export const PAYMENT_FILTERS = [
  'collected',
  'under way',
  'waiting',
  'declined',
  'refused',
  'refunded',
] as const;

/** A payment, or a try at one, in a list; amounts in minor units, as digits. */
export interface AttemptRow {
  readonly id: string;
  readonly state: ShownPaymentState;
  /** How it came out, in plain words. */
  readonly says: string;
  readonly attemptedOn: string;
  readonly amount: string;
  readonly refunded: string;
  readonly currency: string;
  readonly customerId: string;
  readonly customer: string;
  readonly invoiceId: string;
  readonly invoice: string;
  readonly means: Means;
  /** 'Larkfield ending 0019', 'Bank transfer'. */
  readonly method: string;
}

/** A payment with its whole story. */
export interface PaymentPage extends AttemptRow {
  readonly subscriptionId: string;
  readonly plan: string;
  readonly reason: string;
  readonly channel: Channel;
  readonly statementText: string | null;
  /** What the gateway calls it. */
  readonly gatewayCharge: string | null;
  readonly gateway: string | null;
  readonly responseCode: string | null;
  readonly expectedOn: string | null;
  /** As instants of ISO 8601. */
  readonly sentAt: string | null;
  readonly settledAt: string | null;
  /** The rung of the case that it was made for. */
  readonly rung: number | null;
  readonly caseId: string | null;
  /** What staff took, where it was by hand: the whole of it. */
  readonly taking: {
    readonly amount: string;
    readonly over: string;
    readonly receivedOn: string;
    readonly reference: string;
    readonly note: string;
    readonly takenBy: string;
    readonly others: readonly {
      readonly id: string;
      readonly invoice: string;
      readonly amount: string;
    }[];
  } | null;
  readonly refunds: readonly RefundView[];
  /** What of it can still go back. */
  readonly left: string;
  /** Whether it can go back by its gateway; otherwise by hand or to credit. */
  readonly byGateway: boolean;
  /** What is still open of its invoice, which is credited before anything goes back. */
  readonly owed: string;
  readonly letters: readonly { readonly id: string; readonly subject: string; readonly writtenOn: string }[];
}
