import { expect, test } from 'vitest';
import { OPTIONAL_LETTERS } from '../../letters/events.ts';
import { PAGE_LANGUAGES, type PageLanguage } from '../signUp/languages.ts';
import { ownWords } from './wordsOf.ts';

const LANGUAGES = Object.keys(PAGE_LANGUAGES) as PageLanguage[];

/** What is passed in where marks alone would say nothing. */
const GIVEN: Readonly<Record<string, readonly unknown[]>> = {
  '/stopped': [{ writeTo: '<0>', isOpen: true }],
  '/alter/takenBack': [{ number: '<0>', amount: '<1>', anew: true, credit: '<2>' }],
  '/alter/says': ['cancel', '<0>'],
};

/** All that a language says, by where it stands, with marks in place of what is passed in. */
function allOf(words: object, at = ''): [string, string][] {
  return Object.entries(words).flatMap(([name, one]: [string, unknown]): [string, string][] => {
    const here = `${at}/${name}`;
    if (typeof one === 'string') return [[here, one]];
    if (one === null) return [];
    if (typeof one !== 'function') return allOf(one as object, here);
    const marks = Array.from({ length: one.length }, (_, i) => `<${i}>`);
    const given = GIVEN[here] ?? marks;
    return [[here, (one as (...of: unknown[]) => string)(...given)]];
  });
}

test.each(LANGUAGES)('%s says all that the page needs, and what it is given', (language) => {
  const english = new Map(allOf(ownWords('en')));
  const said = new Map(allOf(ownWords(language)));
  // In English what is changed is said by the server.
  const places = [...said.keys()].filter((at) => at !== '/alter/says');
  expect(places.toSorted()).toEqual([...english.keys()].toSorted());
  for (const [at, text] of said) {
    expect(text.trim(), at).not.toBe('');
    expect(text, at).not.toMatch(/undefined|\[object/);
    const marks = (of: string) => (of.match(/<\d>/g) ?? []).toSorted();
    // Which of its own few things is stopped is said in words, not with its name.
    if (at !== '/methods/stop' && at !== '/alter/says')
      expect(marks(text), at).toEqual(marks(english.get(at) ?? ''));
    if (language !== 'en' && text.split(' ').length > 3) expect(text, at).not.toBe(english.get(at));
  }
  expect(Object.keys(ownWords(language).stop.kinds).toSorted()).toEqual([...OPTIONAL_LETTERS].toSorted());
});
