import { z } from 'zod';
import { exponentOf } from '../../core/money/currency.ts';

/** Ways to begin a page with nothing to sell yet: each makes a plan with its rates, to be changed like any other. */
export const PAGE_STARTS = {
  membership: {
    says: 'A membership, monthly or yearly',
    name: 'Membership',
    amount: 'Each month',
    other: 'Each year',
    suggests: ['12', '120'],
  },
  course: {
    says: 'A course, paid at once or in instalments',
    name: 'Course',
    amount: 'Paid at once',
    other: 'In six instalments, in all',
    suggests: ['240', '252'],
  },
  box: { says: 'A box by the quarter', name: 'Box', amount: 'Each quarter', other: '', suggests: ['36', ''] },
  gift: {
    says: 'A gift of one’s own amount, monthly',
    name: 'Gift',
    amount: 'Suggested',
    other: 'At least',
    suggests: ['15', '3'],
  },
  fee: { says: 'A fee, paid once', name: 'Fee', amount: 'The fee', other: '', suggests: ['25', ''] },
} as const;
export type PageStart = keyof typeof PAGE_STARTS;

const amount = z.string().regex(/^\d{1,12}(\.\d{1,4})?$/, 'Give an amount such as 12.00.');

/** A starting point with its amounts, major units. */
export const pageStartSchema = z
  .strictObject({
    start: z.enum(Object.keys(PAGE_STARTS) as [PageStart, ...PageStart[]], 'Choose where to begin.'),
    name: z.string().trim().min(1, 'Give it a name.').max(120, 'A name has at most 120 characters.'),
    currency: z.string().refine((code) => exponentOf(code) !== null, 'Choose a currency.'),
    amount,
    other: amount.or(z.literal('')).default(''),
  })
  .refine(({ start, other }) => PAGE_STARTS[start].other === '' || other !== '', {
    message: 'Give this amount too.',
    path: ['other'],
  });
