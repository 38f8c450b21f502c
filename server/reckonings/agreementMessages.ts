import type { FirstDue } from '../../core/listing/firstDues.ts';

/** What was agreed to when a subscription began. */
export interface AgreementView {
  readonly channel: 'staff' | 'program' | 'customer' | 'import';
  readonly on: string;
  readonly by: string;
  readonly termsVersion: number | null;
  /** The sign-up page that it was agreed to on, with its version, and from which address; null: on none. */
  readonly page: {
    readonly id: string;
    readonly title: string;
    readonly version: number;
    readonly from: string;
  } | null;
  /** Every policy that was agreed to there. */
  readonly policies: readonly { readonly kind: string; readonly version: number }[];
  readonly noTaxBecause: string;
  /** The customer is asked to agree to the terms of service on their own page. */
  readonly asksTerms: boolean;
  /** They did: when, to which version, and from which address. */
  readonly termsAgreed: { readonly on: string; readonly version: number; readonly from: string } | null;
  /** In the words and figures of that day; null where it was brought over. */
  readonly says: string | null;
  readonly dues: readonly FirstDue[];
}
