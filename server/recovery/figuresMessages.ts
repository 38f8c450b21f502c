import { z } from 'zod';
import type { CaseFacts } from '../../core/recovery/figures.ts';

/** So many months may be looked at; as many before them are held against them. */
export const FIGURE_MONTHS = [3, 6, 12, 24] as const;

export const figuresQuery = z.object({
  months: z.coerce
    .number()
    .refine(
      (months) => (FIGURE_MONTHS as readonly number[]).includes(months),
      'Ask for 3, 6, 12 or 24 months.',
    )
    .default(12),
});

export interface RecoveryFigures {
  /** The month that is going on, `YYYY-MM`. */
  readonly month: string;
  readonly months: number;
  /** The facts of each currency, the business's own first; those of the months before are among them. */
  readonly currencies: readonly { readonly currency: string; readonly facts: readonly CaseFacts[] }[];
}
