import { z } from 'zod';

export const POLICY_KINDS = ['terms of service', 'cancellation', 'refund'] as const;
export type PolicyKind = (typeof POLICY_KINDS)[number];

export const policySchema = z
  .strictObject({
    kind: z.enum(POLICY_KINDS, 'Choose which text this is.'),
    text: z.string().trim().max(200_000, 'A text has at most 200,000 characters.'),
    /** The address of the text, copied now; empty where the text itself is given. */
    source: z
      .url({ protocol: /^https?$/, error: 'Give an address that begins with https://.' })
      .max(2000)
      .or(z.literal('')),
    effectiveOn: z.iso.date('Give the day from which it holds.'),
  })
  .refine(({ text, source }) => (text === '') !== (source === ''), {
    message: 'Give either the text or an address where it stands.',
    path: ['text'],
  });

export interface PolicyView {
  readonly id: string;
  readonly kind: PolicyKind;
  readonly version: number;
  readonly text: string;
  readonly source: string | null;
  readonly effectiveOn: string;
  readonly writtenBy: string;
  readonly writtenAt: string;
  readonly inForce: boolean;
  /** Mandates that agreed to this version. */
  readonly agreed: number;
  /** How its address answered when last looked at. */
  readonly check: { readonly answers: boolean; readonly same: boolean; readonly says: string } | null;
}

/** Texts to start from: plain, and to be read before they are used. */
export const STARTING_TEXTS: Readonly<Record<PolicyKind, string>> = {
  'terms of service': `These terms hold between you and us for every subscription you take out.

What you get. The plan you choose says what we provide, how often, and what it costs.

What you pay. We charge the payment method you give us on the dates shown before you agree, and send a receipt each time. Prices change only after we have written to you, and never for a period you have paid.

When a payment fails. We write to you, try again as the letter says, and stop the service only after a last reminder.

How it ends. You can end a subscription as our cancellation terms say. We can end it by writing to you, and return what you have paid for time not served.`,
  cancellation: `You can end your subscription at any time by writing to us or on your own page. It ends with the period you have paid, and nothing more is charged after that.`,
  refund: `If we could not provide what you paid for, we return the money to the method it came from within 14 days. A period that has begun is not returned in part, unless the law says otherwise.`,
};
