import { z } from 'zod';
import { isSecretMember } from '../../core/typed/secrets.ts';

/** So long may a draft be, as JSON. */
const LONGEST = 100_000;

function holdsSecret(value: unknown): boolean {
  if (typeof value !== 'object' || value === null) return false;
  return Object.entries(value).some(([name, member]) => isSecretMember(name) || holdsSecret(member));
}

/** A half-filled enrolment: what was typed is the form's own affair, and holds no card, bank account or token. */
export const enrolmentDraftSchema = z.strictObject({
  customerId: z
    .string()
    .regex(/^\d{1,18}$/)
    .nullable(),
  /** For whom it is and what it is about, in words, for the list. */
  who: z.string().trim().max(200).default(''),
  what: z.string().trim().max(300).default(''),
  value: z
    .record(z.string().max(60), z.unknown())
    .refine((value) => !holdsSecret(value), 'A card or bank account is never kept in a draft.')
    .refine((value) => JSON.stringify(value).length <= LONGEST, 'This is too long to be kept as a draft.'),
});
export type WantedDraft = z.output<typeof enrolmentDraftSchema>;

export const savedDraftSchema = enrolmentDraftSchema.extend({ version: z.int().min(1) });

export interface EnrolmentDraftRow {
  readonly id: string;
  readonly customerId: string | null;
  readonly who: string;
  readonly what: string;
  readonly savedBy: string;
  readonly savedOn: string;
}

export interface EnrolmentDraft extends EnrolmentDraftRow {
  readonly value: Readonly<Record<string, unknown>>;
  readonly version: number;
}
