/** When a card expires, as the list of them is filtered. */
export const EXPIRY_STATES = ['expired', 'this month', 'next month', 'later'] as const;

export interface ExpiringCard {
  readonly id: string;
  readonly customerId: string;
  readonly customer: string;
  /** Network and last digits. */
  readonly card: string;
  /** The last day on which it is good. */
  readonly expiresOn: string;
  readonly state: (typeof EXPIRY_STATES)[number];
  /** When the customer was written to about it; null: not yet. */
  readonly toldOn: string | null;
  /** What is charged to it next, of which subscription, and how many others it pays for. */
  readonly nextOn: string;
  readonly nextAmount: string | null;
  readonly currency: string;
  readonly subscriptionId: string;
  readonly others: number;
}
