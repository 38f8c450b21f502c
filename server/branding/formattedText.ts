import createDOMPurify from 'dompurify';
import { JSDOM } from 'jsdom';

const { window } = new JSDOM('');
const purify = createDOMPurify(window);
purify.addHook('uponSanitizeAttribute', (_node, attribute) => {
  const { attrName, attrValue } = attribute;
  // Pictures are those uploaded here; links go out by web or mail alone.
  if (attrName === 'src' && !/^\/pictures\/[0-9a-f]{32}(\.png)?$/.test(attrValue)) attribute.keepAttr = false;
  if (attrName === 'href' && !/^(https?:\/\/|mailto:)/i.test(attrValue)) attribute.keepAttr = false;
});
purify.addHook('afterSanitizeAttributes', (element) => {
  if (element.nodeName === 'IMG' && !element.getAttribute('src')) element.remove();
});

/** Formatted text with nothing left in it but what formats: paragraphs, headings, lists, stress, links and pictures. */
export function safeText(html: string): string {
  return purify
    .sanitize(html, {
      ALLOWED_TAGS: [
        'p',
        'br',
        'h2',
        'h3',
        'strong',
        'em',
        'u',
        's',
        'ul',
        'ol',
        'li',
        'blockquote',
        'a',
        'img',
      ],
      ALLOWED_ATTR: ['href', 'src', 'alt', 'title'],
      ALLOW_DATA_ATTR: false,
    })
    .trim();
}

/** The addresses of the pictures that stand in formatted text. */
export function addressesIn(html: string): string[] {
  return [...html.matchAll(/\/pictures\/([0-9a-f]{32})/g)].map(([, address = '']) => address);
}

/** The same as plain words, for lists and searches. */
export function plainText(html: string): string {
  const spaced = html.replace(/<\/(p|h2|h3|li)>|<br>/g, ' ');
  const { textContent } = new window.DOMParser().parseFromString(spaced, 'text/html').body;
  return textContent.replace(/\s+/g, ' ').trim();
}
