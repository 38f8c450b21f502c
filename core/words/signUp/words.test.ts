import { expect, test } from 'vitest';
import { PAGE_LANGUAGES, type PageLanguage } from './languages.ts';
import { signUpWords } from './wordsOf.ts';

const LANGUAGES = Object.keys(PAGE_LANGUAGES) as PageLanguage[];

/** All that a language says, with samples in place of what is passed in. */
function allOf(words: object): string[] {
  return Object.values(words).flatMap((one: unknown): string[] => {
    if (typeof one === 'string') return [one];
    if (typeof one !== 'function') return allOf(one as object);
    const say = one as (...given: unknown[]) => string;
    const duration = { count: 2, unit: 'W' };
    const given = [['X', 'Y', 'a year', false], [3, 'Y', 'Z'], [duration], ['X', 3, 'Z']];
    return given.flatMap((some) => {
      try {
        return [say(...some)];
      } catch {
        return [];
      }
    });
  });
}

test('every language says everything, and nothing as another does where words are meant', () => {
  for (const language of LANGUAGES) {
    const said = allOf(signUpWords(language));
    expect(said.length).toBeGreaterThan(120);
    for (const text of said) expect(text.trim(), language).not.toBe('');
  }
  const sentences = (language: PageLanguage) =>
    new Set(allOf(signUpWords(language)).filter((text) => text.split(' ').length > 3));
  const [english, german, french] = LANGUAGES.map(sentences);
  for (const text of german ?? [])
    expect([english?.has(text), french?.has(text)], text).toEqual([false, false]);
  for (const text of french ?? []) expect(english?.has(text), text).toBe(false);
});

test('rhythms are said as one says them in each language, one and several', () => {
  const say = (language: PageLanguage) =>
    ([1, 2] as const).flatMap((count) =>
      (['D', 'W', 'M', 'Y'] as const).map((unit) => signUpWords(language).every({ count, unit })),
    );
  expect(say('en')).toEqual(
    'every day|every week|every month|every year|every 2 days|every 2 weeks|every 2 months|every 2 years'.split(
      '|',
    ),
  );
  expect(say('de')).toEqual(
    'jeden Tag|jede Woche|jeden Monat|jedes Jahr|alle 2 Tage|alle 2 Wochen|alle 2 Monate|alle 2 Jahre'.split(
      '|',
    ),
  );
  expect(say('fr')).toEqual(
    'chaque jour|chaque semaine|chaque mois|chaque année|tous les 2 jours|toutes les 2 semaines|tous les 2 mois|tous les 2 ans'.split(
      '|',
    ),
  );
});

test('what a page says of an amount of one’s own is no range where there is none', () => {
  for (const language of LANGUAGES) {
    const { between } = signUpWords(language);
    expect(
      [between(null, null), between('1', '9'), between('1', null), between(null, '9')].map(
        (text) => text === '',
      ),
    ).toEqual([true, false, false, false]);
  }
});
