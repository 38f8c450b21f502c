import { expect, test } from 'vitest';
import { signUpWords } from '../../core/words/signUp/wordsOf.ts';
import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import type { OfferedRateView } from '../../server/signUp/messages.ts';
import { sayingIn, sayRate, saySaving, sayTrial } from './saying.ts';

const DIGITS = { GBP: 2, JPY: 0, KWD: 3, EUR: 2 };
const saying = (language: PageLanguage, locale: string) => sayingIn(signUpWords(language), locale, DIGITS);
const english = saying('en', 'en-GB');
const plain = (text: string) => text.replace(/[\u00a0\u202f]/g, ' ');

test('amounts are written with the decimals of their currency, as the reader writes them, and lose no digit', () => {
  const say = (minor: string, currency: string) => plain(english.amount(minor, currency));
  expect([say('5', 'GBP'), say('120000', 'GBP'), say('2760', 'JPY'), say('5700', 'KWD')]).toEqual([
    '£0.05',
    '£1,200.00',
    'JP¥2,760',
    'KWD 5.700',
  ]);
  // More than a number of JavaScript holds exactly.
  expect(say('90071992547409931', 'GBP')).toBe('£900,719,925,474,099.31');
  expect(plain(saying('de', 'de-DE').amount('123450', 'EUR'))).toBe('1.234,50 €');
  expect(plain(saying('fr', 'fr-FR').amount('123450', 'EUR'))).toBe('1 234,50 €');
});

test('dates carry their weekday, and are of no time zone', () => {
  expect(english.date('2027-01-04')).toMatch(/^Mon,? 4 Jan 2027$/);
  expect(saying('de', 'de-AT').date('2027-12-31')).toMatch(/^Fr\.?, 31\. Dez\. 2027$/);
  expect(saying('fr', 'fr-CH').date('2028-02-29')).toMatch(/^mar\. 29 févr\. 2028$/);
  expect([english.country('DE'), saying('de', 'de-DE').country('DE'), english.country('')]).toEqual([
    'Germany',
    'Deutschland',
    '',
  ]);
});

const rate = (facts: Partial<OfferedRateView>): OfferedRateView => ({
  ...{
    id: '1',
    planId: '1',
    name: 'Monthly',
    currency: 'GBP',
    digits: 2,
    each: '1200',
    chosen: null,
    payments: null,
  },
  ...{
    interval: { count: 1, unit: 'M' as const },
    instalments: false,
    trial: null,
    counted: false,
    saves: null,
  },
  ...{ methods: ['card' as const], methodLater: false },
  ...facts,
});

test('a rate is said with its rhythm, how often, for each, or once', () => {
  expect(sayRate(rate({}), english)).toBe('£12.00 every month');
  expect(sayRate(rate({ counted: true, interval: { count: 2, unit: 'W' } }), english)).toBe(
    '£12.00 for each, every 2 weeks',
  );
  expect(sayRate(rate({ payments: 7 }), english)).toBe('£12.00 every month, 7 times');
  expect(sayRate(rate({ interval: null }), english)).toBe('£12.00 once');
  expect(sayRate(rate({ chosen: { suggested: '15.00', min: null, max: null }, each: null }), english)).toBe(
    'your own amount every month',
  );
  expect(sayRate(rate({ each: null, currency: 'EUR' }), english)).toBe('every month');
});

test('savings are said in money, and what costs more says so', () => {
  const saves = (basis: NonNullable<OfferedRateView['saves']>['basis'], amount: string) =>
    saySaving(rate({ saves: { basis, amount, percent: '10', than: 'Other' } }), english);
  expect(saves('a year', '2400')).toBe('saves £24.00 a year against Other');
  expect(saves('in all', '1500')).toBe('£15.00 less in all than Other');
  expect(saves('in all', '-1500')).toBe('£15.00 more in all than Other');
  expect(saves('each time, bought once', '300')).toBe('£3.00 less each time than Other');
  expect([saySaving(rate({}), english), sayTrial(rate({}), english)]).toEqual(['', '']);
  expect(sayTrial(rate({ trial: 'P14D' }), english)).toBe('a trial of 14 days first');
  expect(sayTrial(rate({ trial: 'P1M' }), saying('fr', 'fr-FR'))).toBe('d’abord un essai de 1 mois');
});
