import { Liquid, type Template as Parsed } from 'liquidjs';
import { layOut, LAYOUT, PLAIN_LOOK, type LetterLook } from './layOut.ts';
import { TEMPLATES, type LetterEvent, type LetterFields, type Template } from './templates.ts';

const liquid = new Liquid();
const parsed = new Map<string, Parsed[]>();

/** The language that letters are written in so far. */
export const LANGUAGE = 'en';

/**
 * Stands in a stored letter for the customer's own link. The real link is put in only as the letter is sent,
 * so that nobody who reads the letterbook can act as the customer.
 */
export const LINK_PLACE = 'https://link.invalid/own-page';

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

/** How letters of an event are written now. */
export function formOf(event: LetterEvent): LetterForm {
  return { event, language: LANGUAGE, layout: LAYOUT, template: TEMPLATES[event] };
}

/**
 * Writes a letter out as HTML and plain text. The same form, look and fields give the same bytes, whenever it is done:
 * letters are kept as these and written out when they are sent or read.
 */
export function writeOut(form: LetterForm, look: LetterLook, fields: LetterFields): ComposedLetter {
  const { template } = form;
  const subject = subjectOf(form, fields);
  const paragraphs = [
    `Dear ${fields.customer},`,
    ...template.paragraphs.map((text) => written(text, fields)),
  ];
  const link = template.link === undefined ? undefined : { says: template.link, url: LINK_PLACE };
  return { subject, ...layOut(fields.business, subject, paragraphs, link, look, form.layout) };
}

/** The subject of a letter alone, by which the letterbook is searched. */
export function subjectOf({ template }: Pick<LetterForm, 'template'>, fields: LetterFields): string {
  return written(template.subject, fields).replace(/\s+/g, ' ').trim();
}

/** A letter as it would be written now. */
export function compose(
  event: LetterEvent,
  fields: LetterFields,
  look: LetterLook = PLAIN_LOOK,
): ComposedLetter {
  return writeOut(formOf(event), look, fields);
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
