import { Liquid, type Template as Parsed } from 'liquidjs';
import type { Said } from '../../core/letters/said.ts';
import type { LetterManner } from '../../core/letters/customs.ts';
import { sayIn } from '../../core/letters/sayIn.ts';
import { letterWords } from '../../core/letters/wordsOf.ts';
import { isOptionalLetter } from '../../core/letters/events.ts';
import { FIRST_LAYOUT, layOut, LAYOUT, PLAIN_LOOK, type LetterLook } from './layOut.ts';
import type { LetterEvent, LetterFields, LetterSays, Template } from './templates.ts';

const liquid = new Liquid();
const parsed = new Map<string, Parsed[]>();

/**
 * Stands in a stored letter for the customer's own link. The real link is put in only as the letter is sent,
 * so that nobody who reads the letterbook can act as the customer.
 */
export const LINK_PLACE = 'https://link.invalid/own-page';

/** Stands likewise for the link by which letters of its kind are stopped. */
export const STOP_PLACE = 'https://link.invalid/stop-letters';

/** What a letter is written by: the words of its event in one language, and the layout they are set in. */
export interface LetterForm {
  readonly event: LetterEvent;
  readonly language: string;
  /** The version of the layout: a layout that was used once is never changed. */
  readonly layout: number;
  readonly template: Template;
}

export interface ComposedLetter {
  readonly subject: string;
  readonly html: string;
  readonly plain: string;
}

/** The business's own words for letters of an event in a language. */
export interface OwnWords {
  readonly letter: Pick<Template, 'subject' | 'paragraphs' | 'link'> | null;
  /** Paragraphs that follow those of the letter. */
  readonly added: readonly string[];
}

/** How letters of an event are written now: in our words, or in the business's own. */
export function formOf(
  event: LetterEvent,
  language: LetterManner['language'],
  own: OwnWords = { letter: null, added: [] },
): LetterForm {
  const words = letterWords(language);
  const standard = words.letters[event];
  const { subject, paragraphs, link = standard.link } = own.letter ?? standard;
  return {
    ...{ event, language, layout: LAYOUT },
    template: {
      ...{ greeting: words.greeting, subject, paragraphs: [...paragraphs, ...own.added] },
      ...(link === undefined ? {} : { link }),
      ...(isOptionalLetter(event) ? { unsubscribe: words.unsubscribe } : {}),
    },
  };
}

/** Fields written out for whoever reads them; those that hold nothing are left out. */
export function fieldsIn(says: LetterSays, manner: LetterManner): LetterFields {
  const { card } = says;
  const all: Readonly<Record<string, Said | undefined>> =
    typeof card === 'object' && 'network' in card
      ? { charged: { ...card, possessive: true }, ...says }
      : says;
  const written = Object.entries(all).map(
    ([field, said]) => [field, said === undefined ? '' : sayIn(said, manner)] as const,
  );
  const { business, customer, plan } = says;
  return { ...Object.fromEntries(written.filter(([, text]) => text !== '')), business, customer, plan };
}

/**
 * Writes a letter out as HTML and plain text. The same form, look and fields give the same bytes, whenever it is done:
 * letters are kept as these and written out when they are sent or read.
 */
export function writeOut(form: LetterForm, look: LetterLook, fields: LetterFields): ComposedLetter {
  const { template, layout, language } = form;
  const subject = subjectOf(form, fields);
  const { greeting, unsubscribe } = template;
  const paragraphs = [
    greeting === undefined ? `Dear ${fields.customer},` : written(greeting, fields),
    ...bodyOf(form, fields),
  ];
  const link = template.link === undefined ? undefined : { says: template.link, url: LINK_PLACE };
  const stop = unsubscribe === undefined ? undefined : { says: unsubscribe, url: STOP_PLACE };
  return {
    subject,
    ...layOut({ business: fields.business, language, subject, paragraphs, link, stop, look, layout }),
  };
}

/** The paragraphs of a letter; in the first layout also those that came to nothing. */
function bodyOf({ template, layout }: LetterForm, fields: LetterFields): string[] {
  const texts = template.paragraphs.map((text) => written(text, fields));
  if (layout === FIRST_LAYOUT) return texts;
  return texts.map((text) => text.replace(/ {2,}/g, ' ').trim()).filter((text) => text !== '');
}

/** The subject of a letter alone, by which the letterbook is searched. */
export function subjectOf({ template }: Pick<LetterForm, 'template'>, fields: LetterFields): string {
  return written(template.subject, fields).replace(/\s+/g, ' ').trim();
}

/** By which customs letters are written where nothing else is known. */
export const HOUSE_MANNER: LetterManner = { language: 'en', locale: 'en-GB' };

/** A letter as it would be written now in our own words. */
export function compose(
  event: LetterEvent,
  says: LetterSays,
  look: LetterLook = PLAIN_LOOK,
  manner: LetterManner = HOUSE_MANNER,
): ComposedLetter {
  return writeOut(formOf(event, manner.language), look, fieldsIn(says, manner));
}

function written(text: string, fields: LetterFields): string {
  let template = parsed.get(text);
  if (template === undefined) {
    template = liquid.parse(text);
    // Forms of former versions come from the database: what is kept ready has an end.
    if (parsed.size > 1000) parsed.clear();
    parsed.set(text, template);
  }
  return liquid.renderSync(template, fields) as string;
}
