import { z } from 'zod';

export interface CustomerRow {
  readonly id: string;
  readonly reference: string;
  readonly name: string;
  readonly email: string;
  readonly createdOn: string;
  readonly states: string[];
  readonly plans: string | null;
  readonly subscriptionId: string | null;
  readonly card: string | null;
  readonly cardState: string | null;
  readonly owed: { currency: string; amount: string }[] | null;
}

/** A new card: the gateway's token, for a number that never comes here. */
export const newCardSchema = z.strictObject({ token: z.string().min(8).max(100) });
