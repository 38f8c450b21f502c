import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { madeSafe } from '../branding/uploads.ts';
import { LinesOf } from '../imports/linesOf.ts';
import { readPlans } from '../imports/readPlans.ts';
import { hashPassword } from '../staff/password.ts';
import { cleanSvg } from './cleanSvg.ts';
import { safeText } from './formattedText.ts';
import { isNestedTooDeeply } from './nesting.ts';
import { outsideOfLoop } from './outsideOfLoop.ts';
import { plainText, textOfHtml } from './plainText.ts';
import { TooMuch } from './tooMuch.ts';

/*
 * What small things can be made to take: each of these held up the whole server for minutes or threw it down once. That
 * they come to an end is what is tested, and that the event loop goes on beside them; no clock is read for it.
 */
describe('a small request takes a bounded time', () => {
  test('a password of signs that stand for letters is judged, and the event loop goes on meanwhile', async () => {
    let beats = 0;
    const beating = setInterval(() => (beats += 1), 5);
    const passwords = [
      '4@8({[<369&#!1/|0$5+7%2',
      '@4aA'.repeat(10),
      '1!|lI'.repeat(20),
      'ab'.repeat(32),
      '\u{1F41D}'.repeat(40),
    ];
    for (const password of passwords)
      await hashPassword(password, ['Somebody', 'somebody@post.example'], '/password').catch(() => undefined);
    clearInterval(beating);
    expect(beats).toBeGreaterThan(0);
    await expect(hashPassword('password1', [], '/password')).rejects.toMatchObject({ status: 422 });
    await expect(hashPassword('Fenella1985', ['Fenella'], '/password')).rejects.toMatchObject({
      status: 422,
    });
    expect(await hashPassword('heron lantern oblique marsh', [], '/password')).toContain('$argon2id$');
  });

  test('a drawing of thousands of nested groups, or drawn from itself again and again, is refused', async () => {
    const nested = `<svg>${'<g>'.repeat(2500)}${'</g>'.repeat(2500)}</svg>`;
    const unclosed = `<svg>${'<g>'.repeat(2500)}`;
    const many = `<svg>${'<rect/>'.repeat(9000)}</svg>`;
    const again = `<svg><g id="a">${'<use href="#a"/>'.repeat(400)}</g></svg>`;
    for (const svg of [nested, unclosed, many, again])
      await expect(madeSafe(Buffer.from(svg), 512)).rejects.toBeInstanceOf(TooMuch);
  });

  test('formatted text nested thousands deep is cut at a depth, and read as plain words', () => {
    const deep = `<p>${'<em>'.repeat(20_000)}word${'</em>'.repeat(20_000)}</p>`;
    const safe = safeText(deep);
    expect(safe.length).toBeLessThan(500);
    expect(plainText(safe)).toBe(plainText(deep));
    expect(textOfHtml('<div>'.repeat(50_000) + 'policy').trim()).toBe('policy');
    expect(textOfHtml('<div>'.repeat(5_000) + '</b>'.repeat(5_000) + 'policy')).toContain('policy');
  });

  test('a file with hundreds of faults is read once, and its problems are named by line', async () => {
    const faulty = `{"plans":[\n${Array.from({ length: 350 }, () => '{}').join(',\n')}\n]}`;
    const problems: { line: number; says: string }[] = [];
    expect(
      await readPlans({ name: 'plans.json', text: faulty }, (problem) => problems.push(problem)),
    ).toBeNull();
    expect(problems.length).toBeGreaterThan(350);
    expect(problems.at(-1)?.line).toBe(351);
    const deep = `{"plans":${'['.repeat(3000)}${']'.repeat(3000)}}`;
    const found: { says: string }[] = [];
    await readPlans({ name: 'plans.json', text: deep }, (problem) => found.push(problem));
    expect(found).toMatchObject([{ says: 'This is nested too deeply to be a file of what is offered.' }]);
  });

  test('what takes too long in its thread is given up, and the next is read by another', async () => {
    // A style sheet of comments that never end: linear here, and a thread of its own in any case.
    const svg = `<svg><style>${'/*'.repeat(200_000)}</style><rect width="1" height="1"/></svg>`;
    expect(await outsideOfLoop('cleanSvg', svg)).toContain('<rect');
    expect(await outsideOfLoop('textOfHtml', '<p>on</p>')).toBe('on\n');
  });
});

describe('of an SVG', () => {
  const drawn = (inner: string) => cleanSvg(`<svg viewBox="0 0 9 9">${inner}</svg>`) ?? '';
  const EVIL = 'evil.example';

  test.each([
    `<a href="https://${EVIL}"><rect/></a>`,
    `<image href="//${EVIL}/x.png"/>`,
    `<use href="https://${EVIL}/x.svg#a"/>`,
    `<use xlink:href="data:image/svg+xml,${EVIL}"/>`,
    `<rect fill="url(https://${EVIL}/p)"/>`,
    `<rect fill="URL( 'https://${EVIL}/p' )"/>`,
    `<rect style="fill:u\\72l(//${EVIL})"/>`,
    `<rect style="fill:\\75\\72\\6c (//${EVIL})"/>`,
    `<rect style="fill:u/**/rl(//${EVIL})"/>`,
    `<rect style="background:image-set('//${EVIL}' 1x)"/>`,
    `<rect fill="&#117;rl(//${EVIL})"/>`,
    `<style>@import "//${EVIL}";</style>`,
    `<style>@\\69mport "//${EVIL}";</style>`,
    `<style>rect{fill:ur\\6C(//${EVIL})}</style>`,
    `<style>@font-face{font-family:x;src:url(//${EVIL}/f)}</style>`,
    `<style><![CDATA[@import "//${EVIL}";]]></style>`,
    `<script>fetch("//${EVIL}")</script>`,
    `<script xlink:href="//${EVIL}"/>`,
    `<rect onclick="fetch('//${EVIL}')"/>`,
    `<set attributeName="href" to="//${EVIL}"/>`,
    `<foreignObject><iframe src="//${EVIL}"/></foreignObject>`,
    `<x:script xmlns:x="http://www.w3.org/2000/svg">fetch("//${EVIL}")</x:script>`,
    `<g xmlns:evil="http://${EVIL}/"/>`,
    `<metadata>http://${EVIL}</metadata><title>http://${EVIL}</title>`,
    `<!-- http://${EVIL} --><?xml-stylesheet href="//${EVIL}"?>`,
    `<filter><feImage href="//${EVIL}/x"/></filter>`,
  ])('%s keeps no address', (inner) => {
    const clean = drawn(`${inner}<rect width="1" height="1"/>`);
    expect(clean).not.toContain(EVIL);
    expect(clean).not.toMatch(/script|onclick|iframe/);
    expect(clean).toContain('<rect width="1" height="1">');
  });

  test('what draws is left as it was, and draws', async () => {
    const inner =
      '<defs><linearGradient id="g"><stop offset="0" stop-color="#0E6655"></stop></linearGradient></defs>' +
      '<style>.a{fill:url(#g)}</style><g transform="rotate(4)"><path class="a" d="M0 0L8 8"></path></g><use href="#g"></use><text x="1">Hives &#38; rows</text>';
    expect(drawn(inner)).toBe(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">${inner}</svg>`);
    expect(cleanSvg('<html><body/></html>')).toBeNull();
    const { png } = await madeSafe(
      Buffer.from(`<svg viewBox="0 0 9 9" width="9" height="9">${inner}</svg>`),
      64,
    );
    expect(png?.subarray(1, 4).toString()).toBe('PNG');
  });

  test('whatever it holds, what is left is a drawing without scripts or addresses', () => {
    const piece = fc.constantFrom(
      ...[
        '<g>',
        '</g>',
        '<rect/>',
        '<style>',
        '</style>',
        'url(',
        '//x.example',
        '\\75',
        '/*',
        '*/',
        '"',
        "'",
        '<',
        '>',
        '&#x75;',
        '&',
        'href=',
        ' style="',
        '<script>',
        '<![CDATA[',
        ']]>',
        '-->',
        '<!--',
        '</svg>',
        '<svg>',
        'a',
      ],
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const clean = cleanSvg(`<svg>${pieces.join('')}`) ?? '';
        expect(clean).not.toMatch(/<script|<!--|<!\[CDATA/i);
        for (const [, rules = ''] of clean.matchAll(/<style>([^]*?)<\/style>/g))
          expect(rules).not.toContain('//');
      }),
      { numRuns: 2000 },
    );
  });
});

describe('the nesting and the lines of a JSON text', () => {
  test('are those of its parser', () => {
    const json = fc.json({ maxDepth: 6 });
    fc.assert(
      fc.property(json, (text) => {
        const depth = (value: unknown): number =>
          value !== null && typeof value === 'object'
            ? 1 + Math.max(0, ...Object.values(value).map(depth))
            : 0;
        const deep = depth(JSON.parse(text));
        expect(isNestedTooDeeply(text, deep)).toBe(false);
        if (deep > 0) expect(isNestedTooDeeply(text, deep - 1)).toBe(true);
      }),
    );
  });

  test('are told for every value of the sample, as a search of its text finds them', () => {
    const text = readFileSync(join(import.meta.dirname, '..', '..', 'demo', 'plans.json'), 'utf8');
    const lines = new LinesOf(text);
    const { plans } = JSON.parse(text) as { plans: { key: string; rates: { key: string }[] }[] };
    const lineOfText = (needle: string, from: number) =>
      text.split('\n').findIndex((line, i) => i >= from - 1 && line.includes(needle)) + 1;
    let from = 1;
    for (const [i, plan] of plans.entries()) {
      from = lineOfText(`"${plan.key}"`, from);
      expect(lines.at(['plans', i, 'key'])).toBe(from);
      for (const [j, rate] of plan.rates.entries()) {
        expect(lines.at(['plans', i, 'rates', j, 'key'])).toBe(lineOfText(`"key": "${rate.key}"`, from));
        from = lines.at(['plans', i, 'rates', j, 'key']);
        expect(lines.at(['plans', i, 'rates', j, 'no such member'])).toBe(lines.at(['plans', i, 'rates', j]));
      }
    }
  });
});
