import { Parser } from 'htmlparser2';
import { TooMuch } from './tooMuch.ts';

const SVG = 'http://www.w3.org/2000/svg';
const XLINK = 'http://www.w3.org/1999/xlink';
/** A drawing that is nested deeper, has more parts, or draws more of them again, is not taken. */
const DEEPEST = 60;
const MOST_PARTS = 6_000;
const MOST_USES = 300;

/** Elements that draw (SVG 2), and those that say what is drawn with. */
const DRAWING = new Set(
  `svg g defs symbol use path rect circle ellipse line polyline polygon text tspan textPath linearGradient radialGradient
   stop pattern clipPath mask marker filter feBlend feColorMatrix feComponentTransfer feComposite feConvolveMatrix
   feDiffuseLighting feDisplacementMap feDistantLight feDropShadow feFlood feFuncA feFuncB feFuncG feFuncR feGaussianBlur
   feMerge feMergeNode feMorphology feOffset fePointLight feSpecularLighting feSpotLight feTile feTurbulence style`.split(
    /\s+/,
  ),
);
const TEXTS = new Set(['text', 'tspan', 'textPath', 'style']);
const LINKS = new Set(['href', 'xlink:href']);

/**
 * Of an SVG only what draws: no scripts, no links, nothing that names an address in whatever spelling. Null where
 * nothing of it is a drawing.
 * @throws {@link TooMuch} where it is nested too deeply or has too many parts
 */
export function cleanSvg(svg: string): string | null {
  const written: string[] = [];
  const open: string[] = [];
  let [leftOut, parts, uses, deep] = [0, 0, 0, 0];
  let style: string[] | null = null;
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        deep += 1;
        parts += 1;
        if (name === 'use') uses += 1;
        if (deep > DEEPEST || parts > MOST_PARTS || uses > MOST_USES) throw new TooMuch();
        const isFirst = open.length === 0;
        if (leftOut > 0 || !DRAWING.has(name) || (isFirst && (name !== 'svg' || written.length > 0))) {
          leftOut += 1;
          return;
        }
        open.push(name);
        if (name === 'style') style = [];
        else written.push(`<${name}${isFirst ? ` xmlns="${SVG}"` : ''}${attributesOf(attributes)}>`);
      },
      ontext(text) {
        const within = open.at(-1) ?? '';
        if (leftOut > 0 || !TEXTS.has(within)) return;
        if (style) style.push(text);
        else written.push(escaped(text));
      },
      onclosetag(name) {
        deep -= 1;
        if (leftOut > 0) {
          leftOut -= 1;
          return;
        }
        // A tag that was cut off by the end is closed by the parser without ever having been opened.
        if (open.at(-1) !== name) return;
        open.pop();
        if (style) {
          const rules = withoutComments(style.join(''));
          style = null;
          if (!namesOutside(rules)) written.push(`<style>${escaped(rules)}</style>`);
        } else written.push(`</${name}>`);
      },
    },
    { xmlMode: true, decodeEntities: true },
  );
  parser.end(svg);
  return written.length === 0 ? null : written.join('');
}

function attributesOf(attributes: Readonly<Record<string, string>>): string {
  return Object.entries(attributes)
    .filter(([name, value]) => mayStay(name, value))
    .map(([name, value]) => ` ${name}="${escaped(value)}"`)
    .join('');
}

function mayStay(name: string, value: string): boolean {
  if (name === 'xmlns:xlink') return value === XLINK;
  if (LINKS.has(name)) return /^#[\w.-]{1,100}$/.test(value);
  if (name === 'xml:space') return true;
  if (!/^[a-zA-Z][a-zA-Z0-9-]*$/.test(name) || name === 'xmlns' || /^(on|src|data)/i.test(name)) return false;
  return !namesOutside(value);
}

/** Whether a value or a style sheet names anything outside of the drawing, however it is spelt (CSS Syntax 3, escapes). */
function namesOutside(text: string): boolean {
  const plain = withoutComments(text)
    .replace(/\\([0-9a-f]{1,6})\s?/gi, (_, code: string) => signOf(Number.parseInt(code, 16)))
    .replace(/\\([^])/g, '$1')
    .replace(/[\p{Cc}\s]+/gu, '')
    .toLowerCase();
  return (
    /@import|@charset|@namespace|image-set\(|image\(|cross-fade\(|element\(|expression\(|src\(/.test(plain) ||
    /url\((?!["']?#)/.test(plain) ||
    /\/\/|(javascript|data|https?|ftp|file|blob|mailto|vbscript):/.test(plain)
  );
}

function withoutComments(css: string): string {
  return css.replace(/\/\*[^]*?(\*\/|$)/g, '');
}

function signOf(code: number): string {
  return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : '\u{FFFD}';
}

function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
}
