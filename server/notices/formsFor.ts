import type { Transaction } from 'sequelize';
import type { LetterManner } from '../../core/letters/customs.ts';
import { isPageLanguage } from '../../core/words/signUp/languages.ts';
import type { Almanac } from '../almanac.ts';
import { localeFor } from '../customers/localeFor.ts';
import { settingsOf } from '../settings/settings.ts';
import { formOf, type LetterForm } from './compose.ts';
import { ownWordsOf } from './ownWords.ts';
import type { LetterEvent } from './templates.ts';

interface Addressed {
  readonly customerId: string;
  readonly subscriptionId: string | null;
}

/** In which words, and by which customs, each of some letters is written. */
export interface LetterForms {
  readonly of: (letter: Addressed) => { readonly form: LetterForm; readonly manner: LetterManner };
}

/**
 * The forms of some letters of one event: in the language of each customer, or else that of the business, with its own words for
 * the rate that it is about. It asks the same number of questions for any number of letters.
 */
export async function formsFor(
  almanac: Almanac,
  event: LetterEvent,
  letters: readonly Addressed[],
  within: Transaction,
): Promise<LetterForms> {
  const manners = await mannersOf(
    almanac,
    letters.map(({ customerId }) => customerId),
    within,
  );
  const own = await ownWordsOf(almanac, event, within);
  const rates = own.byRate ? await ratesOf(almanac, letters, within) : new Map<string, string>();
  const kept = new Map<string, LetterForm>();
  return {
    of: ({ customerId, subscriptionId }) => {
      const manner = manners.get(customerId) ?? manners.usual;
      const rateId = subscriptionId === null ? undefined : rates.get(subscriptionId);
      const key = `${manner.language} ${rateId ?? ''}`;
      const form = kept.get(key) ?? formOf(event, manner.language, own.of(manner.language, rateId));
      kept.set(key, form);
      return { form, manner };
    },
  };
}

/** How each of some customers is written to. */
export async function mannersOf(
  almanac: Almanac,
  customerIds: readonly string[],
  within?: Transaction,
): Promise<{ get: (customerId: string) => LetterManner | undefined; readonly usual: LetterManner }> {
  const facts = await settingsOf(almanac, 'business', within);
  const rows = await almanac.db.rows<{ id: string; language: string; country: string | null }>(
    'select id::text, language, country from customers where id = any($ids::bigint[])',
    { ids: [...new Set(customerIds)] },
    within,
  );
  const usual = mannerOf({ language: '', country: null }, facts);
  const manners = new Map(rows.map((row) => [row.id, mannerOf(row, facts)]));
  return { get: (id) => manners.get(id), usual };
}

function mannerOf(
  customer: { readonly language: string; readonly country: string | null },
  business: { readonly language: string; readonly country: string },
): LetterManner {
  // In a language that there are no words in they are written to as the business writes.
  const written = isPageLanguage(customer.language) ? customer : { ...customer, language: '' };
  const locale = localeFor(written, business);
  const language = written.language || business.language;
  return isPageLanguage(language) ? { language, locale } : { language: 'en', locale: 'en-GB' };
}

async function ratesOf(
  { db }: Almanac,
  letters: readonly Addressed[],
  within: Transaction,
): Promise<Map<string, string>> {
  const ids = letters.flatMap(({ subscriptionId }) => (subscriptionId === null ? [] : [subscriptionId]));
  const rows = await db.rows<{ id: string; rateId: string }>(
    'select id::text, rate_id::text as "rateId" from subscriptions where id = any($ids::bigint[])',
    { ids },
    within,
  );
  return new Map(rows.map(({ id, rateId }) => [id, rateId]));
}
