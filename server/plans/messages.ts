import { z } from 'zod';

/** The form of a new plan with one rate: the terms are checked by the calculation itself. */
export const newPlanSchema = z.strictObject({
  name: z.string().trim().min(1, 'Give the plan a name.').max(120, 'A name has at most 120 characters.'),
  description: z.string().trim().max(5000, 'A description has at most 5,000 characters.').default(''),
  rate: z.strictObject({
    name: z.string().trim().min(1, 'Give the rate a name.').max(120, 'A name has at most 120 characters.'),
    terms: z.record(z.string(), z.unknown()),
  }),
});
export type NewPlan = z.input<typeof newPlanSchema>;

export interface RateView {
  readonly id: string;
  readonly name: string;
  readonly says: string;
  readonly terms: Record<string, unknown>;
  /** The tax that new subscriptions pay by law, or null: none, or the one that the terms name. */
  readonly taxId: string | null;
  readonly subscribers: number;
}

export interface PlanView {
  readonly id: string;
  readonly name: string;
  readonly description: string;
  readonly rates: RateView[];
  readonly subscribers: number;
}
