import { z } from 'zod';

/** The record that is put into another one, and is gone after it. */
export const mergeSchema = z.strictObject({ from: z.string().regex(/^\d{1,18}$/, 'Choose a customer.') });

/** What putting two records of one customer together does. */
export interface MergeEffect {
  readonly keeps: { readonly name: string; readonly email: string };
  readonly goes: { readonly name: string; readonly email: string; readonly reference: string };
  /** What moves: how many of each. */
  readonly subscriptions: readonly string[];
  readonly invoices: number;
  readonly letters: number;
  readonly methods: readonly string[];
  /** What of the record that goes is otherwise, and is not kept. */
  readonly lost: readonly { readonly field: string; readonly value: string }[];
  /** The taxes of what moves may come to something else: the two live elsewhere, or one of them pays none. */
  readonly taxesDiffer: boolean;
}

/** What erasing a customer does, or why it cannot be done. */
export interface ErasureEffect {
  readonly name: string;
  /** Why not yet; empty: it can be done. */
  readonly hindrances: readonly string[];
  readonly invoices: number;
  readonly letters: number;
  readonly messages: number;
}
