import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatDay, toDay } from '../dates/day.ts';
import { printAmount, readAmount, readAmountOfFile, readWhole } from './amount.ts';
import { printDate, readDate } from './date.ts';
import { localeOf } from './manner.ts';

const LOCALES = ['en-GB', 'de-DE', 'fr-FR'] as const;
const locales = fc.constantFrom(...LOCALES, 'en-US', 'de-CH', 'en-IE');
const GBP = { currency: 'GBP', decimals: 2 };
const valueOf = (reading: { ok: boolean; value?: unknown; says?: string }) =>
  reading.ok ? reading.value : reading.says;

describe('an amount as people type it', () => {
  const amounts = fc.tuple(fc.bigInt(0n, 999_999_999_999n), fc.integer({ min: 0, max: 99 }));
  const stored = ([whole, pence]: readonly [bigint, number]) => `${whole}.${String(pence).padStart(2, '0')}`;

  it('is read back to the penny as any language prints it, with and without its currency', () => {
    fc.assert(
      fc.property(locales, amounts, fc.constantFrom('', '£', 'GBP ', 'gbp'), (locale, amount, mark) => {
        // Printed by another hand: the Unicode data, not our own printer.
        const other = new Intl.NumberFormat(locale, { minimumFractionDigits: 2 }).format(
          stored(amount) as unknown as number,
        );
        for (const text of [other, printAmount(stored(amount), locale, 2)]) {
          expect(valueOf(readAmount(`${mark}${text}`, locale, GBP))).toBe(stored(amount));
          expect(valueOf(readAmount(` ${text} ${mark}`, locale, GBP))).toBe(stored(amount));
        }
      }),
    );
  });

  it('is never read as another amount: what a second language printed is the same sum or is refused', () => {
    fc.assert(
      fc.property(locales, locales, amounts, (written, readBy, amount) => {
        const text = printAmount(stored(amount), written, 2);
        const reading = readAmount(text, readBy, GBP);
        if (reading.ok) expect(reading.value).toBe(stored(amount));
        else expect(reading.says).not.toBe('');
      }),
    );
  });

  it('is a thousand or four and a bit by the language, and never guessed', () => {
    expect(valueOf(readAmount('4,995', 'en-GB', GBP))).toBe('4995');
    expect(valueOf(readAmount('4,995', 'de-DE', { currency: 'EUR', decimals: 2 }))).toMatch(
      /At most 2 decimals/,
    );
    expect(valueOf(readAmount('1.234,50', 'de-DE', GBP))).toBe('1234.50');
    expect(valueOf(readAmount('1.234,50', 'en-GB', GBP))).toMatch(/for 1\.234,50 write 1,234\.50/);
    expect(valueOf(readAmount('30,00', 'en-GB', GBP))).toMatch(/write 30\.00/);
    expect(valueOf(readAmount('30,00', 'fr-FR', GBP))).toBe('30.00');
    expect(valueOf(readAmount('€30', 'en-GB', GBP))).toMatch(/This is in GBP/);
    expect(valueOf(readAmount('-5', 'en-GB', GBP))).toMatch(/not negative/);
    expect(valueOf(readAmount('1,23,456', 'en-GB', GBP))).toMatch(/Give an amount/);
    expect(valueOf(readAmount('1e3', 'en-GB', GBP))).toMatch(/GBP|amount/);
    expect(valueOf(readAmount('9999999999999', 'en-GB', GBP))).toMatch(/at most 12 digits/);
    expect(valueOf(readAmount('500.5', 'en-GB', { currency: 'JPY', decimals: 0 }))).toMatch(/no decimals/);
  });

  it('takes anything at all without a throw', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), locales, (text, locale) => {
        const reading = readAmount(text, locale, GBP);
        if (reading.ok) expect(reading.value).toMatch(/^\d{1,12}(\.\d{1,2})?$/);
      }),
    );
  });
});

describe('a whole number', () => {
  it('is the one that was typed, or refused; never cut', () => {
    fc.assert(
      fc.property(locales, fc.integer({ min: 0, max: 5_000_000 }), (locale, count) => {
        for (const text of [String(count), new Intl.NumberFormat(locale).format(count)]) {
          const reading = readWhole(text, locale, { least: 1, most: 999_999 });
          expect(reading.ok).toBe(count >= 1 && count <= 999_999);
          if (reading.ok) expect(reading.value).toBe(String(count));
        }
      }),
    );
    expect(readWhole('99999', 'en-GB', { most: 999 }).ok).toBe(false);
    expect(readWhole('1.5', 'en-GB', { most: 999 }).ok).toBe(false);
  });
});

describe('a date as people type it', () => {
  const today = '2027-01-04';
  const days = fc.integer({ min: toDay('1990-01-01'), max: toDay('2099-12-31') }).map(formatDay);
  const asRead = (text: string, locale = 'en-GB') => valueOf(readDate(text, locale, { today }));

  it('is read back as any language prints it: with its weekday, in words, in figures, in full', () => {
    const forms = [
      { day: 'numeric', month: 'long', year: 'numeric' },
      { day: '2-digit', month: '2-digit', year: 'numeric' },
      { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' },
      { day: 'numeric', month: 'short', year: 'numeric' },
    ] as const;
    fc.assert(
      fc.property(locales, days, fc.constantFrom(...forms), (locale, iso, form) => {
        const other = new Intl.DateTimeFormat(locale, { ...form, timeZone: 'UTC' });
        expect(asRead(other.format(new Date(`${iso}T00:00:00Z`)), locale)).toBe(iso);
        expect(asRead(printDate(iso, locale), locale)).toBe(iso);
        expect(asRead(iso, locale)).toBe(iso);
      }),
    );
  });

  it('follows the order of the country, and the next such day where no year is given', () => {
    expect(asRead('3/4/2027')).toBe('2027-04-03');
    expect(asRead('3/4/2027', 'en-US')).toBe('2027-03-04');
    expect(asRead('3.4.', 'de-DE')).toBe('2027-04-03');
    expect(asRead('3 dec')).toBe('2027-12-03');
    expect(asRead('dec 3')).toBe('2027-12-03');
    expect(asRead('3 Jan')).toBe('2028-01-03');
    expect(asRead('29 feb')).toBe('2028-02-29');
    expect(asRead('3. Dezember', 'de-DE')).toBe('2027-12-03');
    expect(asRead('1er août', 'fr-FR')).toBe('2027-08-01');
  });

  it('counts on from today', () => {
    expect(asRead('+2w')).toBe('2027-01-18');
    expect(asRead('+10')).toBe('2027-01-14');
    expect(asRead('-3d')).toBe('2027-01-01');
    expect(valueOf(readDate('+1m', 'en-GB', { today: '2027-01-31' }))).toBe('2027-02-28');
    expect(asRead('+1j', 'de-DE')).toBe('2028-01-04');
    expect(asRead('tomorrow')).toBe('2027-01-05');
    expect(asRead('morgen', 'de-DE')).toBe('2027-01-05');
    expect(asRead("aujourd'hui", 'fr-FR')).toBe('2027-01-04');
    expect(asRead('fri')).toBe('2027-01-08');
    expect(asRead('monday')).toBe('2027-01-11');
  });

  it('refuses what is no day, is another weekday, or is out of bounds, by name', () => {
    expect(asRead('31 feb 2027')).toMatch(/not a day/);
    expect(asRead('Tue 4 Jan 2027')).toBe('That day is a Monday: Mon 4 Jan 2027.');
    expect(asRead('1 1 9999')).toMatch(/hundred years/);
    expect(asRead('')).toMatch(/Give a day/);
    expect(valueOf(readDate('1 jan 2027', 'en-GB', { today, min: today }))).toBe(
      'Not before Mon 4 Jan 2027.',
    );
    expect(valueOf(readDate('+2w', 'en-GB', { today, max: '2027-01-10' }))).toBe(
      'Not after Sun 10 Jan 2027.',
    );
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), locales, (text, locale) => {
        const reading = readDate(text, locale, { today });
        if (reading.ok) expect(formatDay(toDay(reading.value))).toBe(reading.value);
      }),
    );
  });

  it('takes the country of the business', () => {
    expect(localeOf('en', 'GB')).toBe('en-GB');
    expect(localeOf('en', '')).toBe('en-GB');
    expect(localeOf('de', '')).toBe('de-DE');
  });
});

describe('an amount of a file that may come from elsewhere', () => {
  it.each([
    ['12.50', 'en-GB', '12.50'],
    ['12,50', 'en-GB', '12.50'],
    ['£12.50', 'en-GB', '12.50'],
    ['GBP 12,50', 'en-GB', '12.50'],
    ['1.234,50', 'en-GB', '1234.50'],
    ['1 234,50', 'en-GB', '1234.50'],
    ['1,234', 'en-GB', '1234'],
    ['1,234.50', 'de-DE', '1234.50'],
    ['12.5', 'de-DE', '12.5'],
    // In German figures a point groups: it is read as it is written there.
    ['1.234', 'de-DE', '1234'],
    ['012,50', 'en-GB', '12.50'],
  ])('%s in %s is %s', (text, locale, value) => {
    expect(readAmountOfFile(text, locale, { currency: 'GBP', decimals: 2 })).toEqual({ ok: true, value });
  });

  it.each(['12,5,0', '-3.00', 'twelve', '€12.50', '1.2.3', '12.345', ''])('%s is none', (text) => {
    expect(readAmountOfFile(text, 'en-GB', { currency: 'GBP', decimals: 2 }).ok).toBe(false);
  });
});
