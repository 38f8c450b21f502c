import { Parser } from 'htmlparser2';

const BLOCKS = new Set(['p', 'div', 'li', 'h1', 'h2', 'h3', 'h4', 'br', 'tr', 'section', 'blockquote']);
const UNREAD = new Set(['script', 'style', 'noscript', 'template', 'nav', 'svg', 'title', 'head']);

/** The text of a page as a reader sees it, a line for each block, without scripts and styles. Nothing of it is loaded. */
export function textOfHtml(html: string): string {
  return textOf(html, '\n');
}

/** Formatted text as plain words, for lists and searches. */
export function plainText(html: string): string {
  return textOf(html, ' ').replace(/\s+/g, ' ').trim();
}

function textOf(html: string, betweenBlocks: string): string {
  const parts: string[] = [];
  let unread = 0;
  const parser = new Parser({
    onopentagname(name) {
      if (UNREAD.has(name)) unread += 1;
    },
    ontext(text) {
      if (unread === 0) parts.push(text);
    },
    onclosetag(name) {
      if (UNREAD.has(name)) unread -= 1;
      if (BLOCKS.has(name)) parts.push(betweenBlocks);
    },
  });
  parser.end(html);
  return parts.join('');
}
