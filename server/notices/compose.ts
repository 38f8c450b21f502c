import { Liquid } from 'liquidjs';
import { TEMPLATES, type LetterEvent, type LetterFields } from './templates.ts';

const forHtml = new Liquid({ outputEscape: 'escape', cache: true });
const forPlain = new Liquid({ cache: true });

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

/** Writes a letter as HTML and plain text. Every field is escaped; a letter holds no script and loads nothing. */
export function compose(event: LetterEvent, fields: LetterFields): ComposedLetter {
  const template = TEMPLATES[event];
  const subject = forPlain.parseAndRenderSync(template.subject, fields).replace(/\s+/g, ' ').trim();
  const html = template.paragraphs.map(
    (paragraph) => `<p style="margin:0 0 16px">${forHtml.parseAndRenderSync(paragraph, fields)}</p>`,
  );
  const plain = template.paragraphs.map((paragraph) => forPlain.parseAndRenderSync(paragraph, fields));
  const greeting = `Dear ${fields.customer},`;
  if (template.link !== undefined) {
    html.push(
      `<p style="margin:24px 0"><a href="${LINK_PLACE}" style="background:#0E6655;color:#ffffff;padding:12px 20px;border-radius:4px;text-decoration:none;display:inline-block">${template.link}</a></p>`,
    );
    plain.push(`${template.link}: ${LINK_PLACE}`);
  }
  return {
    subject,
    html: page(fields.business, subject, greeting, html.join('\n')),
    plain: [greeting, ...plain, fields.business].join('\n\n'),
  };
}

function page(business: string, subject: string, greeting: string, body: string): string {
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(subject)}</title></head>
<body style="margin:0;background:#F3F6F4;color:#16262B;font:16px/1.5 'Public Sans',Helvetica,Arial,sans-serif">
<div style="max-width:560px;margin:0 auto;padding:32px 24px">
<p style="font:600 20px/1.3 Literata,Georgia,serif;margin:0 0 24px;padding-bottom:12px;border-bottom:2px solid #0E6655">${escaped(business)}</p>
<div style="background:#ffffff;padding:24px;border:1px solid #D5DEDA;border-radius:4px">
<p style="margin:0 0 16px">${escaped(greeting)}</p>
${body}
<p style="margin:24px 0 0">${escaped(business)}</p>
</div></div></body></html>`;
}

function escaped(text: string): string {
  return forHtml.parseAndRenderSync('{{ text }}', { text });
}
