import { Liquid } from 'liquidjs';
import { layOut, PLAIN_LOOK, type LetterLook } from './layOut.ts';
import { TEMPLATES, type LetterEvent, type LetterFields } from './templates.ts';

const templates = new Liquid({ cache: true });

/**
 * Stands in a stored letter for the customer's own link. The real link is put in only as the letter is sent,
 * so that nobody who reads the letterbook can act as the customer.
 */
export const LINK_PLACE = 'https://link.invalid/own-page';

export interface ComposedLetter {
  readonly subject: string;
  readonly html: string;
  readonly plain: string;
}

/** Writes a letter as HTML and plain text. */
export function compose(
  event: LetterEvent,
  fields: LetterFields,
  look: LetterLook = PLAIN_LOOK,
): ComposedLetter {
  const template = TEMPLATES[event];
  const written = (text: string) => templates.parseAndRenderSync(text, fields) as string;
  const subject = written(template.subject).replace(/\s+/g, ' ').trim();
  const paragraphs = [`Dear ${fields.customer},`, ...template.paragraphs.map(written)];
  const link = template.link === undefined ? undefined : { says: template.link, url: LINK_PLACE };
  return { subject, ...layOut(fields.business, subject, paragraphs, link, look) };
}
