import sanitize from 'sanitize-html';

/** Formatted text is nested no deeper: what lies below is left out. */
const DEEPEST = 12;

/**
 * Formatted text with nothing left in it but what formats: paragraphs, headings, lists, stress, links and pictures.
 * Pictures are those uploaded here; links go out by web or mail alone. It takes time in proportion to its length.
 */
export function safeText(html: string): string {
  const safe = sanitize(html, {
    allowedTags: [
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
    allowedAttributes: { a: ['href', 'title'], img: ['src', 'alt', 'title'] },
    allowedSchemes: ['http', 'https', 'mailto'],
    allowProtocolRelative: false,
    nestingLimit: DEEPEST,
    disallowedTagsMode: 'discard',
    transformTags: {
      a: (tagName, { href, ...others }) => ({
        tagName,
        attribs: href !== undefined && /^(https?:\/\/|mailto:)/i.test(href) ? { href, ...others } : others,
      }),
    },
    exclusiveFilter: ({ tag, attribs }) =>
      tag === 'img' && !/^\/pictures\/[0-9a-f]{32}(\.png)?$/.test(attribs.src ?? ''),
  });
  // As HTML is written: signs in texts and attributes are escaped, so that this closes elements alone.
  return safe.replaceAll(' />', '>').trim();
}
