import { z } from 'zod';

/**
 * What a method is to its customer: the primary one, charged for everything; the fallback, tried after it; or one that
 * only the subscriptions that name it are charged with, before the others.
 */
export const METHOD_ROLES = ['primary', 'fallback', 'own'] as const;
export type MethodRole = (typeof METHOD_ROLES)[number];

/** What a method is: a card, or a bank account that is debited. */
export const METHOD_KINDS = ['card', 'bank account'] as const;
export type MethodKind = (typeof METHOD_KINDS)[number];

const id = z.string().regex(/^\d{1,18}$/);

/** A card or a bank account that is given: the gateway's token, for a number that never comes here. */
export const newMethodSchema = z.strictObject({
  token: z.string().min(8).max(100),
  kind: z.enum(METHOD_KINDS).default('card'),
  /** The gateway account that it was given to, where staff chose one. */
  keptAt: id.optional(),
  role: z.enum(['primary', 'fallback']).default('primary'),
  /** Read on the reader, the holder being there; otherwise it was told by phone or post. */
  read: z.boolean().default(false),
});

/** Which method a subscription is charged with before the customer's others; null: none of its own. */
export const ownMethodSchema = z.strictObject({ methodId: id.nullable() });

/** Another month on the same card, whose number stays. */
export const newExpirySchema = z.strictObject({
  expiresMonth: z.int().min(1, 'Give the month, 1 to 12.').max(12, 'Give the month, 1 to 12.'),
  expiresYear: z.int().min(2000).max(2200),
});

/** A payment method with its mandate, as staff see it. */
export interface MethodView {
  readonly id: string;
  /** 'Larkfield ending 4242'. */
  readonly says: string;
  readonly role: MethodRole;
  readonly state: 'usable' | 'needs-customer' | 'barred' | 'replaced';
  readonly kind: MethodKind;
  /** Whose card or account it is; empty: that was not asked for. */
  readonly holder: string;
  /** '05/2031'; null of a bank account. */
  readonly expires: string | null;
  readonly hasExpired: boolean;
  readonly addedOn: string;
  /** The gateway account that keeps it. */
  readonly account: string;
  readonly connected: boolean;
  readonly mandate: {
    readonly channel: string;
    readonly givenOn: string;
    readonly agreedText: string;
    readonly address: string;
    readonly withdrawnOn: string | null;
    readonly withdrawnBy: string;
  } | null;
  /** When its bank last issued it anew by itself, as the gateway told us. */
  readonly renewedOn: string | null;
  /** What the gateway last answered when it was asked to authorise zero. */
  readonly check: { readonly on: string; readonly good: boolean; readonly says: string } | null;
  /** The subscriptions that name it as their own. */
  readonly own: readonly { readonly id: string; readonly plan: string }[];
}

/** What withdrawing a mandate does. */
export interface WithdrawalEffect {
  readonly card: string;
  /** What is charged with another method from then on, and what with none. */
  readonly goesOn: readonly { readonly plan: string; readonly with: string }[];
  readonly left: readonly string[];
  /** Another becomes the customer's primary one. */
  readonly primary: string | null;
  /** Charges under way are asked about still, and are not taken back. */
  readonly underWay: number;
}
