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
export const LAYOUT = 2;
/** The first layout: in English alone, with no way to stop letters. */
export const FIRST_LAYOUT = 1;
export const PLAIN_LOOK: LetterLook = { mainColour: '#0e6655', logo: null };

/** What a letter is laid out of. */
export interface LaidOut {
  readonly business: string;
  readonly language?: string;
  readonly subject: string;
  readonly paragraphs: readonly string[];
  readonly link?: LetterLink | undefined;
  /** By which letters of its kind are stopped, at the foot. */
  readonly stop?: LetterLink | undefined;
  readonly look?: LetterLook;
  readonly layout?: number;
}

interface LetterLink {
  readonly says: string;
  readonly url: string;
}

/**
 * Lays a letter out as HTML and plain text from its paragraphs, each escaped here. A letter holds no script and
 * loads nothing but the logo.
 */
export function layOut(letter: LaidOut): { html: string; plain: string } {
  const { business, subject, paragraphs, link, stop, look = PLAIN_LOOK, layout = LAYOUT } = letter;
  if (layout !== LAYOUT && layout !== FIRST_LAYOUT)
    throw new Error(`There is no layout ${layout} of letters.`);
  const body = paragraphs.map((text) => `<p style="margin:0 0 16px">${lines(text)}</p>`);
  const plain = [...paragraphs];
  if (link) {
    const { mainColour } = look;
    body.push(
      `<p style="margin:24px 0"><a href="${escaped(link.url)}" style="background:${mainColour};color:${inkOn(mainColour)};padding:12px 20px;border-radius:4px;text-decoration:none;display:inline-block">${escaped(link.says)}</a></p>`,
    );
    plain.push(`${link.says}: ${link.url}`);
  }
  plain.push(business);
  if (stop) plain.push(`${stop.says}: ${stop.url}`);
  const language = layout === FIRST_LAYOUT ? 'en' : (letter.language ?? 'en');
  const around = { business, language, subject, look, foot: stop ? footOf(stop) : '' };
  return { html: page(around, body.join('\n')), plain: plain.join('\n\n') };
}

const footOf = ({ says, url }: LetterLink) =>
  `<p style="margin:16px 0 0;font-size:13px"><a href="${escaped(url)}" style="color:#43555b">${escaped(says)}</a></p>\n`;

const lines = (text: string) => escaped(text).replace(/\n/g, '<br>');

function page(
  {
    business,
    language,
    subject,
    look,
    foot,
  }: {
    readonly business: string;
    readonly language: string;
    readonly subject: string;
    readonly look: LetterLook;
    readonly foot: string;
  },
  body: string,
): string {
  const heading = look.logo
    ? `<img src="${escaped(look.logo)}" alt="${escaped(business)}" style="max-height:48px;max-width:260px;display:block">`
    : escaped(business);
  const colour = legibleOn(look.mainColour, '#f3f6f4');
  return `<!doctype html>
<html lang="${language}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(subject)}</title></head>
<body style="margin:0;background:#F3F6F4;color:#16262B;font:16px/1.5 'Public Sans',Helvetica,Arial,sans-serif">
<div style="max-width:560px;margin:0 auto;padding:32px 24px">
<div style="font:600 20px/1.3 Literata,Georgia,serif;color:${colour};margin:0 0 24px;padding-bottom:12px;border-bottom:2px solid ${look.mainColour}">${heading}</div>
<div style="background:#ffffff;padding:24px;border:1px solid #D5DEDA;border-radius:4px;overflow-wrap:anywhere">
${body}
<p style="margin:24px 0 0">${escaped(business)}</p>
</div>${foot}</div></body></html>`;
}
