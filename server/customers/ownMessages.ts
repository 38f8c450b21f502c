import { z } from 'zod';
import type { PageLook } from '../branding/messages.ts';
import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import type { PolicyKind } from '../policies/messages.ts';
import type { MayDo } from '../plans/choiceMessages.ts';
import type { Debt } from '../recovery/messages.ts';
import type { CustomerMessage } from './messages.ts';
import type { PublicGateway } from '../gateways/publicGateway.ts';
import { newMethodSchema, type MethodKind, type MethodRole } from './methodMessages.ts';
import type { Thread } from '../../core/thread/thread.ts';

export const messageSchema = z.strictObject({
  text: z.string().trim().min(1, 'Write a few words.').max(2000, 'At most 2,000 characters.'),
});

export interface OwnPage {
  readonly look: PageLook;
  readonly policies: readonly { readonly kind: PolicyKind; readonly text: string }[];
  readonly gateway: PublicGateway | null;
  /** Something that is charged is paid by card, or there is nothing yet. */
  readonly takesCards: boolean;
  /** Where a bank account is given; null: what is charged is not paid so. */
  readonly bank: PublicGateway | null;
  /** What the plan says of itself: formatted text, a picture, documents to read. */
  readonly about: {
    readonly description: string;
    readonly picture: string | null;
    readonly documents: readonly { readonly name: string; readonly at: string }[];
  };
  /** What the customer may do alone, and what of. */
  readonly mine: OwnChoices;
  readonly business: string;
  /** What is agreed to by giving a card or a bank account, word for word. */
  readonly agreed: Readonly<Record<MethodKind, string>>;
  readonly writeTo: string;
  readonly customer: string;
  readonly plan: string;
  readonly rate: string;
  readonly state: string;
  /** Since when the service is stopped, until what is owed is paid. */
  readonly serviceStoppedOn: string | null;
  readonly currency: string;
  readonly card: { readonly says: string; readonly expires: string | null; readonly state: string } | null;
  /** What this subscription may be charged to, in the order in which it is tried. */
  readonly methods: readonly OwnMethod[];
  /** The version of the terms of service that is to be agreed to first; null: none. */
  readonly terms: number | null;
  readonly readOnly: boolean;
  /** It is charged by itself, or each invoice is paid by hand. */
  readonly collects: 'automatic' | 'by hand';
  readonly thread: Thread;
  readonly businessDate: string;
  readonly locale: string;
  readonly language: PageLanguage;
  /** What was written to and fro; names of staff are left out. */
  readonly messages: readonly CustomerMessage[];
  readonly debts: readonly Debt[];
  /** Of those, the invoices that can be paid by online transfer, by their ids. */
  readonly transfers: readonly string[];
  readonly coming: readonly { readonly dueOn: string; readonly due: string }[];
  /** Credit at hand, which is used on the next due: minor units. */
  readonly credit: readonly { readonly currency: string; readonly credit: string }[];
  readonly paid: readonly {
    readonly id: string;
    readonly number: string;
    readonly dueOn: string;
    readonly total: string;
    /** The lines of it that settle a change. */
    readonly settled: readonly { readonly says: string; readonly amount: string }[];
  }[];
}

/** A card or a bank account that a customer has given, as they see it. */
export interface OwnMethod {
  readonly id: string;
  readonly says: string;
  readonly expires: string | null;
  readonly role: MethodRole;
}

/** A card or a bank account from its holder: the gateway's token, for a number that never comes here. */
export const ownCardSchema = newMethodSchema.pick({ token: true, kind: true });

export const ownMethodIdSchema = z.strictObject({ methodId: z.string().regex(/^\d{1,18}$/) });

export const ownTermsSchema = z.strictObject({ version: z.int().min(1) });

export const ownTransferSchema = z.strictObject({ invoiceId: z.string().regex(/^\d{1,18}$/) });

export interface OwnPaid {
  readonly charged: readonly { readonly invoice: string; readonly outcome: string }[];
}

export interface OwnChoices {
  readonly may: MayDo;
  readonly over: boolean;
  /** When it ends, where it was cancelled. */
  readonly cancelledTo: string | null;
  readonly cancelledBy: 'customer' | 'business' | null;
  /** How many of the first line, where its price looks at that. */
  readonly quantity: number | null;
  readonly variantId: string | null;
  readonly variants: readonly { readonly id: string; readonly name: string; readonly says: string }[];
  /** Extra lines paid once that can be taken. */
  readonly once: readonly {
    readonly key: string;
    readonly name: string;
    readonly min: number;
    readonly max: number;
  }[];
  readonly extras: readonly {
    readonly key: string;
    readonly name: string;
    readonly min: number;
    readonly max: number;
    readonly required: boolean;
    readonly quantity: number;
  }[];
}
