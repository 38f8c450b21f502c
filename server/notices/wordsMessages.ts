import { z } from 'zod';
import type { LetterEvent, OptionalLetter } from '../../core/letters/events.ts';
import type { PageLook } from '../branding/messages.ts';
import type { LetterTemplate } from '../../core/letters/words.ts';
import { PAGE_LANGUAGES, type PageLanguage } from '../../core/words/signUp/languages.ts';

export const LONGEST_SUBJECT = 200;
export const LONGEST_PARAGRAPH = 2000;
export const MOST_PARAGRAPHS = 30;

const languages = Object.keys(PAGE_LANGUAGES) as [PageLanguage, ...PageLanguage[]];
const language = z.enum(languages, 'Choose a language.');
const line = (longest: number, missing: string) =>
  z
    .string()
    .trim()
    .min(1, missing)
    .max(longest, `At most ${longest} characters.`)
    .refine((text) => !/[\r\n]/.test(text), 'This is one line.');
const paragraphs = z
  .array(z.string().trim().max(LONGEST_PARAGRAPH, `A paragraph has at most ${LONGEST_PARAGRAPH} characters.`))
  .max(MOST_PARAGRAPHS, `At most ${MOST_PARAGRAPHS} paragraphs.`)
  .transform((texts) => texts.filter((text) => text !== ''));

const wordsSchema = z.strictObject({
  language,
  /** The business's own letter; null: ours. */
  letter: z
    .strictObject({
      subject: line(LONGEST_SUBJECT, 'Give a subject.'),
      paragraphs: paragraphs.refine((texts) => texts.length > 0, 'Write one paragraph at least.'),
      link: line(80, 'Say where the link leads.').optional(),
    })
    .nullable(),
  /** What follows the letter, for every rate. */
  added: paragraphs,
  /** What follows it for one rate alone. */
  byRate: z
    .array(z.strictObject({ rateId: z.string().regex(/^\d{1,18}$/, 'Choose a rate.'), added: paragraphs }))
    .max(500)
    .refine(
      (rates) => new Set(rates.map(({ rateId }) => rateId)).size === rates.length,
      'A rate stands here twice.',
    ),
});
export type LetterWordsDraft = z.input<typeof wordsSchema>;

export const changeWordsSchema = wordsSchema.extend({ version: z.string().max(40) });

export const tryWordsSchema = wordsSchema.extend({
  /** On whom it is tried; null: somebody made up. */
  customerId: z
    .string()
    .regex(/^\d{1,18}$/)
    .nullable(),
  rateId: z
    .string()
    .regex(/^\d{1,18}$/)
    .nullable(),
  /** The case of the event that it is tried in, where there are several. */
  how: z.string().max(40).nullable(),
});
export type TryWords = z.input<typeof tryWordsSchema>;

export const testWordsSchema = tryWordsSchema.extend({
  to: z.email('Give the address that the test goes to.').max(254, 'An address has at most 254 characters.'),
});

export const wordsQuery = z.object({ language: language.default('en') });

/** The words of letters of an event in one language, for whoever changes them. */
export interface LetterWordsView {
  readonly event: LetterEvent;
  readonly says: string;
  readonly language: PageLanguage;
  readonly standard: LetterTemplate;
  readonly letter: LetterTemplate | null;
  readonly added: readonly string[];
  readonly byRate: readonly {
    readonly rateId: string;
    readonly rate: string;
    readonly added: readonly string[];
  }[];
  /** Languages in which something of this letter is the business's own. */
  readonly changedIn: readonly PageLanguage[];
  /** Names what was read: a change of something newer is refused. */
  readonly version: string;
  readonly changedBy: string;
  readonly changedAt: string;
}

/** A letter as it would be read. */
export interface TriedLetter {
  readonly subject: string;
  readonly html: string;
  readonly plain: string;
  /** Where its facts come from. */
  readonly from: string;
  /** What each field that it can name holds here; empty: nothing. */
  readonly fields: readonly { readonly name: string; readonly says: string; readonly value: string }[];
  /** Fields that its words name and that hold nothing here. */
  readonly empty: readonly string[];
  /** In which case it was tried. */
  readonly how: string | null;
}

/** One line of the list of letters. */
export interface LetterWordsRow {
  readonly event: LetterEvent;
  readonly says: string;
  readonly ownIn: readonly PageLanguage[];
  readonly addedIn: readonly PageLanguage[];
  readonly ofRates: number;
}

/** What a customer sees who was sent here to stop letters. */
export interface StoppableLetter {
  readonly business: string;
  readonly look: PageLook;
  readonly event: OptionalLetter;
  readonly language: PageLanguage;
  /** 'j…@example.test': whoever reads it knows whose it is. */
  readonly to: string;
  readonly stopped: boolean;
}
export const stopSchema = z.strictObject({ stop: z.boolean() });
