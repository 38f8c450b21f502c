import { z } from 'zod';
import type { Thread } from '../../core/thread/thread.ts';

export const rehearsalSchema = z.strictObject({
  rateId: z.string().regex(/^\d{1,18}$/),
  name: z.string().trim().min(1, 'Give a name.').max(200, 'A name has at most 200 characters.'),
  quantity: z.int().min(1).max(1_000_000_000).optional(),
  cardToken: z.string().min(8).max(100),
});

/** What would have happened. Nothing of it was kept. */
export interface Rehearsed {
  readonly steps: readonly { readonly good: boolean; readonly says: string }[];
  readonly currency: string;
  readonly charges: readonly { readonly date: string; readonly kind: string; readonly due: string }[];
  readonly thread: Thread;
  readonly letters: readonly { readonly subject: string; readonly html: string; readonly sent: boolean }[];
}
