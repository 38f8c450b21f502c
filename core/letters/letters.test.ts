import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { DECLINE_CODES } from '../recovery/declineCodes.ts';
import { PAGE_LANGUAGES, type PageLanguage } from '../words/signUp/languages.ts';
import { factsOf, fieldsOf, LETTER_EVENTS, type LetterEvent, type LetterField } from './events.ts';
import { money, onDate, sentence, type Said } from './said.ts';
import type { LetterManner } from './customs.ts';
import { sayIn } from './sayIn.ts';
import { faultsOfWords, lineOf, piecesOf, TemplateFault, type Piece, type When } from './template.ts';
import { letterWords } from './wordsOf.ts';

const LANGUAGES = Object.keys(PAGE_LANGUAGES) as PageLanguage[];
const EVENTS = Object.keys(LETTER_EVENTS) as LetterEvent[];
const manner = (locale: string): LetterManner => ({ language: locale.slice(0, 2) as PageLanguage, locale });

/** The fields that the words of a letter name, and those that a part of it depends on. */
function namedIn(language: PageLanguage, event: LetterEvent): string[] {
  const { subject, paragraphs } = letterWords(language).letters[event];
  const pieces = [subject, ...paragraphs].flatMap(piecesOf);
  return [...new Set(pieces.flatMap((piece) => ('field' in piece ? [piece.field] : [])))].toSorted();
}

describe('every language', () => {
  test.each(LANGUAGES)('%s has words for every letter that could be saved as one’s own', (language) => {
    for (const event of EVENTS) {
      const letter = letterWords(language).letters[event];
      expect(faultsOfWords(event, letter), event).toEqual([]);
      expect(letter.link !== undefined, `${event}: the link`).toBe(factsOf(event).link);
      const named = namedIn(language, event);
      for (const field of factsOf(event).needs ?? []) expect(named, event).toContain(field);
    }
  });

  test.each(LANGUAGES)('%s tells of the same facts as English', (language) => {
    // A card may be called “your card …” in one language where another names it alone.
    const facts = (of: PageLanguage, event: LetterEvent) =>
      namedIn(of, event).map((field) => (field === 'charged' ? 'card' : field));
    for (const event of EVENTS) {
      const lacks = facts('en', event).filter((field) => !facts(language, event).includes(field));
      // In German and French the change itself says that it is a cancellation.
      expect(lacks, event).toEqual([]);
    }
  });

  test.each(LANGUAGES.filter((one) => one !== 'en'))(
    '%s says nothing in English, and every reason of a decline',
    (language) => {
      const [words, english] = [letterWords(language), letterWords('en')];
      for (const event of EVENTS)
        for (const paragraph of words.letters[event].paragraphs)
          if (/[a-z]{3,}/.test(paragraph.replace(/\{[{%][^}]*[}%]\}/g, '')))
            expect(english.letters[event].paragraphs, event).not.toContain(paragraph);
      expect(Object.keys(words.declines ?? {}).toSorted()).toEqual([...DECLINE_CODES].toSorted());
    },
  );

  test.each(LANGUAGES)('%s has a sentence for each, which says what it is given', (language) => {
    const { sentences } = letterWords(language);
    for (const [name, say] of Object.entries(sentences) as [string, (of: object) => string][]) {
      const given = new Set<string>();
      const said = say(new Proxy({}, { get: (_, key) => (given.add(String(key)), `<${String(key)}>`) }));
      expect(said, name).not.toMatch(/undefined|\[object/);
      for (const key of given) if (key !== 'kind' && key !== 'says') expect(said, name).toContain(`<${key}>`);
    }
  });
});

describe('what a field holds', () => {
  test.for<[string, Said, string]>([
    ['en-GB', money(123450n, 'GBP'), '£1,234.50'],
    ['en-US', money(123450n, 'GBP'), '£1,234.50'],
    ['de-DE', money(123450n, 'EUR'), '1.234,50 €'],
    ['de-AT', money(-5n, 'EUR'), '-€ 0,05'],
    ['de-CH', money(123450n, 'CHF'), "CHF 1'234.50"],
    ['fr-FR', money(123450n, 'EUR'), '1 234,50 €'],
    ['fr-FR', money(1500n, 'JPY'), '1 500 JPY'],
    // More digits than a number holds.
    ['de-DE', money(900719925474099301n, 'EUR'), '9.007.199.254.740.993,01 €'],
    ['en-GB', onDate('2027-01-04'), 'Mon 4 Jan 2027'],
    ['en-US', onDate('2027-01-04'), 'Mon, Jan 4, 2027'],
    ['de-DE', onDate('2027-01-04'), 'Mo., 4. Jan. 2027'],
    ['fr-FR', onDate('2027-01-04'), 'lun. 4 janv. 2027'],
    ['de-DE', { from: '2027-01-04', to: '2027-02-04' }, '4. Jan. 2027 bis 4. Feb. 2027'],
    ['de-DE', { from: '2027-01-04', to: '2027-01-04' }, '4. Jan. 2027'],
    [
      'en-GB',
      { network: 'Larkfield', lastFour: '4242', possessive: true },
      'your card Larkfield ending 4242',
    ],
    [
      'en-GB',
      { network: 'Bank account', lastFour: '0001', possessive: true },
      'your bank account ending 0001',
    ],
    ['de-DE', { network: 'Bank account', lastFour: '0001' }, 'Bankkonto mit den Endziffern 0001'],
    ['fr-FR', { network: '', lastFour: '', possessive: true }, 'votre carte enregistrée'],
    ['de-DE', { declined: '51' }, 'das Konto ist nicht ausreichend gedeckt'],
    ['en-GB', { declined: '51' }, 'not enough money in the account'],
    // A code that nobody knows is said in English rather than not at all.
    ['fr-FR', { declined: 'ZZ' }, 'the bank refused (code ZZ)'],
    ['fr-FR', { all: [money(100n, 'EUR'), '', money(200n, 'GBP')], joined: 'and' }, '1,00 € et 2,00 £GB'],
    [
      'de-DE',
      sentence('in parts', {
        count: '2',
        parts: {
          all: [sentence('amount by', { amount: money(500n, 'EUR'), date: onDate('2027-01-04') })],
          joined: ',',
        },
      }),
      'Sie wird in 2 Teilen bezahlt: 5,00 € bis Mo., 4. Jan. 2027.',
    ],
    [
      'de-DE',
      { rate: { currency: 'EUR', lines: [{ price: { scheme: 'flat', amount: '12.00' } }], interval: 'P1M' } },
      '12,00 € jeden Monat',
    ],
    [
      'fr-FR',
      {
        rate: {
          currency: 'EUR',
          lines: [{ price: { scheme: 'each', amount: '0.125' } }],
          interval: 'P2W',
          ends: { after: 6 },
        },
      },
      'à partir de 0,125 € toutes les 2 semaines, 6 fois',
    ],
  ])('%s %#', ([locale, said, text]) => {
    // The spaces and apostrophes that figures are grouped by are of several kinds.
    expect(
      sayIn(said, manner(locale))
        .replace(/[\u00a0\u202f]/g, ' ')
        .replace('’', "'"),
    ).toBe(text);
  });
});

describe('the words of a letter', () => {
  const anyPieces = (event: LetterEvent) => {
    const fields = Object.keys(fieldsOf(event)) as LetterField[];
    const when: fc.Arbitrary<When | undefined> = fc.option(
      fc.oneof<fc.Arbitrary<When>[]>(
        fc
          .tuple(fc.constantFrom(...fields), fc.constantFrom('filled' as const, 'empty' as const))
          .map(([field, is]): When => ({ field, is })),
        fc
          .tuple(
            fc.constantFrom(...Object.keys(factsOf(event).how ?? {})),
            fc.constantFrom('so' as const, 'not so' as const),
          )
          .map(([how, is]): When => ({ how, is })),
      ),
      { nil: undefined },
    );
    const text = fc.string({ minLength: 1 }).filter((one) => !/[{}]|%[}]?/.test(one));
    const body = fc.oneof(
      text.map((one) => ({ text: one })),
      fc.constantFrom(...fields).map((field) => ({ field })),
    );
    return fc.array(fc.tuple(body, when).map(([piece, at]): Piece => (at ? { ...piece, when: at } : piece)));
  };

  /** Neighbouring texts under one condition are one. */
  const joined = (pieces: readonly Piece[]) =>
    pieces.reduce<Piece[]>((all, piece) => {
      const last = all.at(-1);
      const isOne =
        last && 'text' in last && 'text' in piece && JSON.stringify(last.when) === JSON.stringify(piece.when);
      return isOne ? [...all.slice(0, -1), { ...piece, text: last.text + piece.text }] : [...all, piece];
    }, []);

  test('are the same after they were written down and read again', () => {
    fc.assert(
      fc.property(anyPieces('started'), (pieces) => {
        const line = lineOf(pieces);
        expect(lineOf(piecesOf(line))).toBe(line);
        expect(piecesOf(line)).toEqual(joined(pieces));
        expect(faultsOfWords('started', { subject: 'X', paragraphs: [line] })).toEqual([]);
      }),
    );
  });

  test.each([
    ['{{ amount', 'does not close'],
    ['amount }}', 'does not close'],
    ['{{ amount | upcase }}', 'not the name of a field alone'],
    ['{{ customer.secret }}', 'not the name of a field alone'],
    ['{% if amount %}open', 'does not end'],
    ['open{% endif %}', 'ends nothing'],
    ['{% if amount %}{% unless next %}x{% endunless %}{% endif %}', 'inside of another'],
    ['{% unless amount %}x{% endif %}', 'ends nothing'],
    ['{% for x in y %}{% endfor %}', 'not a condition'],
    ['{% if how %}x{% endif %}', 'not a condition'],
    ['{% include "other" %}', 'not a condition'],
  ])('%s is refused', (line, why) => {
    expect(() => piecesOf(line)).toThrow(TemplateFault);
    expect(faultsOfWords('started', { paragraphs: ['Good.', line] })).toMatchObject([
      { at: 1, says: expect.stringContaining(why) as string },
    ]);
  });

  test('name fields and cases of their own event alone', () => {
    expect(
      faultsOfWords('receipt', {
        subject: '{{ owed }}',
        paragraphs: ['{% if policy %}x{% endif %}{% if how == "again" %}y{% endif %}', '{{ invoice }}'],
        link: 'Pay {{ amount }}',
      }),
    ).toEqual([
      { at: 'subject', says: 'There is no field “owed” in this letter.' },
      { at: 0, says: 'There is no field “policy” in this letter.' },
      { at: 0, says: 'There is no case “again” in this letter.' },
      { at: 'link', says: 'The link has plain words alone.' },
    ]);
  });
});
