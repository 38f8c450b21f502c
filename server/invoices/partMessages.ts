import { z } from 'zod';
import { PART_INTERVALS, type PartInterval } from './partIntervals.ts';

/** How the open rest of an invoice is to be paid in parts. */
export const splitSchema = z.strictObject({
  parts: z.int('Give a whole number.').min(2, 'At least two parts.').max(24, 'At most 24 parts.'),
  every: z.enum(Object.keys(PART_INTERVALS) as [PartInterval, ...PartInterval[]]),
  firstOn: z.iso.date('Give the day of the first part.'),
});

/** What an invoice is paid in from then on. */
export interface SplitEffect {
  readonly invoice: string;
  readonly currency: string;
  readonly parts: readonly { readonly dueOn: string; readonly amount: string }[];
  /** A case is open about it, and closes: what was overdue is agreed to be paid later. */
  readonly closesCase: boolean;
}
