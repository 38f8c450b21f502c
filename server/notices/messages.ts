import { z } from 'zod';

export interface LetterRow {
  readonly id: string;
  readonly writtenOn: string;
  readonly event: string;
  readonly reason: string;
  readonly to: string;
  readonly subject: string;
  readonly state: LetterState;
  readonly fate: string;
  readonly customer: string;
  readonly customerId: string;
  readonly subscriptionId: string | null;
}

export interface LetterView {
  readonly id: string;
  readonly state: LetterState;
  /** Whose it is, on which event, and why it was written. */
  readonly customer: string;
  readonly customerId: string;
  readonly event: string;
  readonly reason: string;
  readonly writtenOn: string;
  readonly html: string;
  readonly plain: string;
  readonly subject: string;
  readonly to: string;
  /** The documents that went with it, by name. */
  readonly files: readonly string[];
  readonly sentAt: string | null;
  readonly fate: string;
}

export type LetterState = 'queued' | 'held' | 'sent' | 'undeliverable' | 'taken back';

/** How letters are found by what became of them. */
export const LETTER_STATES = {
  'to be sent': 'About to be sent',
  queued: 'Waiting',
  held: 'Held back',
  sent: 'Sent',
  undeliverable: 'Undeliverable',
  'taken back': 'Taken back',
} as const;

export const LETTER_ACTS = ['hold', 'release', 'take back', 'send again'] as const;
export type LetterAct = (typeof LETTER_ACTS)[number];

export const letterActsSchema = z.strictObject({
  ids: z
    .array(z.string().regex(/^\d{1,18}$/))
    .min(1, 'Choose a letter.')
    .max(500, 'At most 500 letters at once.'),
  act: z.enum(LETTER_ACTS),
});
export const holdAllSchema = z.strictObject({ hold: z.boolean() });

/** What an act does to a letter, or did; or why it cannot be done. */
export interface LetterEffect {
  readonly id: string;
  readonly customer: string;
  readonly subject: string;
  readonly may: boolean;
  readonly says: string;
}

export interface LettersHeld {
  /** The day since which all letters to customers are held; null: they go out. */
  readonly since: string | null;
  readonly waiting: number;
  readonly held: number;
}
