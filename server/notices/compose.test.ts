import { createHash } from 'node:crypto';
import { expect, test } from 'vitest';
import { writeOut, type LetterForm } from './compose.ts';

/*
 * Letters are kept as what they say and written out when they are sent or read: what was sent once must be read the same
 * for ever. When this fails, do not change what it expects: give the new layout the next number, and keep this one.
 */
const FORM: LetterForm = {
  event: 'receipt' as LetterForm['event'],
  language: 'en',
  layout: 1,
  template: {
    subject: 'Receipt for {{ amount }}: {{ plan }}',
    paragraphs: ['We have collected {{ amount }} from your {{ card }}.', 'Yours <truly> & "ever"'],
    link: 'See your own page',
  },
};
const FIELDS = {
  ...{ business: 'Fenmarsh Hives', customer: 'Ada <b>Brook</b>', plan: 'Hive Watch' },
  ...{ amount: '£34.20', card: 'Larkfield ending 4242' },
};

test('a letter of the first layout is written out to the byte as ever', () => {
  const { subject, html, plain } = writeOut(FORM, { mainColour: '#0e6655', logo: null }, FIELDS);
  expect(subject).toBe('Receipt for £34.20: Hive Watch');
  expect(plain).toBe(
    'Dear Ada <b>Brook</b>,\n\nWe have collected £34.20 from your Larkfield ending 4242.\n\nYours <truly> & "ever"\n\nSee your own page: https://link.invalid/own-page\n\nFenmarsh Hives',
  );
  expect(html).toContain('Dear Ada &lt;b&gt;Brook&lt;/b&gt;,');
  expect(createHash('sha256').update(html).digest('hex')).toMatchInlineSnapshot(
    `"6bed75ca1ebfcc26908c0339cff3e4fceec6919524778ea51150b655066f9bfd"`,
  );
});

test('a layout that never was is refused rather than guessed', () => {
  expect(() => writeOut({ ...FORM, layout: 99 }, { mainColour: '#0e6655', logo: null }, FIELDS)).toThrow(
    'There is no layout 99',
  );
});
