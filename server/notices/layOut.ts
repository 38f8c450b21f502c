import { Liquid } from 'liquidjs';
import { inkOn, legibleOn } from '../branding/messages.ts';

const forHtml = new Liquid({ outputEscape: 'escape' });
const TEXT = forHtml.parse('{{ text }}');

/** Any text as HTML shows it, sign by sign. */
export function escaped(text: string): string {
  return forHtml.renderSync(TEXT, { text }) as string;
}

/** How a letter looks: the business's colour, and its logo by an address that mail programs can load. */
export interface LetterLook {
  readonly mainColour: string;
  readonly logo: string | null;
}
/**
 * The version of the layout. Letters that were written by it are written out by it again, to the byte: whoever changes
 * how a letter is set adds another version beside this one, and leaves this one as it is.
 */
export const LAYOUT = 1;
export const PLAIN_LOOK: LetterLook = { mainColour: '#0e6655', logo: null };

/**
 * Lays a letter out as HTML and plain text from its paragraphs, each escaped here. A letter holds no script and
 * loads nothing but the logo.
 */
export function layOut(
  business: string,
  subject: string,
  paragraphs: readonly string[],
  link?: { readonly says: string; readonly url: string },
  look: LetterLook = PLAIN_LOOK,
  layout: number = LAYOUT,
): { html: string; plain: string } {
  if (layout !== LAYOUT) throw new Error(`There is no layout ${layout} of letters.`);
  const body = paragraphs.map((text) => `<p style="margin:0 0 16px">${lines(text)}</p>`);
  const plain = [...paragraphs];
  if (link) {
    const { mainColour } = look;
    body.push(
      `<p style="margin:24px 0"><a href="${escaped(link.url)}" style="background:${mainColour};color:${inkOn(mainColour)};padding:12px 20px;border-radius:4px;text-decoration:none;display:inline-block">${escaped(link.says)}</a></p>`,
    );
    plain.push(`${link.says}: ${link.url}`);
  }
  return { html: page(business, subject, body.join('\n'), look), plain: [...plain, business].join('\n\n') };
}

const lines = (text: string) => escaped(text).replace(/\n/g, '<br>');

function page(business: string, subject: string, body: string, look: LetterLook): string {
  const heading = look.logo
    ? `<img src="${escaped(look.logo)}" alt="${escaped(business)}" style="max-height:48px;max-width:260px;display:block">`
    : escaped(business);
  const colour = legibleOn(look.mainColour, '#f3f6f4');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(subject)}</title></head>
<body style="margin:0;background:#F3F6F4;color:#16262B;font:16px/1.5 'Public Sans',Helvetica,Arial,sans-serif">
<div style="max-width:560px;margin:0 auto;padding:32px 24px">
<div style="font:600 20px/1.3 Literata,Georgia,serif;color:${colour};margin:0 0 24px;padding-bottom:12px;border-bottom:2px solid ${look.mainColour}">${heading}</div>
<div style="background:#ffffff;padding:24px;border:1px solid #D5DEDA;border-radius:4px;overflow-wrap:anywhere">
${body}
<p style="margin:24px 0 0">${escaped(business)}</p>
</div></div></body></html>`;
}
