import { z } from 'zod';

/** Who gets receipts: of every payment, of none, or of the next one alone. */
export const RECEIPTS = {
  always: 'Of every payment',
  never: 'Of none',
  once: 'Of the next payment, and then of none',
} as const;
export type Receipts = keyof typeof RECEIPTS;

/** Receipts are on; whoever turns them off says why. */
export const receiptFields = {
  receipts: z
    .enum(Object.keys(RECEIPTS) as [Receipts, ...Receipts[]], 'Choose who gets receipts.')
    .default('always'),
  receiptsWhy: z.string().trim().max(200, 'At most 200 characters.').default(''),
};

/** Whether it is said why somebody gets no receipts. */
export const saysWhyNone = ({ receipts, receiptsWhy }: { receipts: Receipts; receiptsWhy: string }) =>
  receipts !== 'never' || receiptsWhy !== '';

export const WHY_NONE = { message: 'Say why no receipts are sent.', path: ['receiptsWhy'] };
