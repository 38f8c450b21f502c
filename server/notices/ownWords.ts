import type { Transaction } from 'sequelize';
import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import type { Almanac } from '../almanac.ts';
import { readOnce } from '../db/readOnce.ts';
import type { OwnWords } from './compose.ts';
import type { LetterEvent } from './templates.ts';

/** The words that the business has given its letters itself. */
export interface OwnWordsRow {
  readonly event: LetterEvent;
  readonly language: PageLanguage;
  readonly rateId: string | null;
  readonly letter: OwnWords['letter'];
  readonly added: readonly string[];
}

export interface OwnWordsOfEvent {
  /** Whether anything is added for a rate alone. */
  readonly byRate: boolean;
  readonly of: (language: PageLanguage, rateId?: string) => OwnWords;
}

/** The business's own words for letters of an event, in every language. A transaction reads all events' at once. */
export async function ownWordsOf(
  { db }: Almanac,
  event: LetterEvent,
  within?: Transaction,
): Promise<OwnWordsOfEvent> {
  const all = await readOnce(within, 'the words of letters', () =>
    db.rows<OwnWordsRow>(
      'select event, language, rate_id::text as "rateId", letter, added from letter_words order by id',
      {},
      within,
    ),
  );
  const rows = all.filter((row) => row.event === event);
  const row = (language: PageLanguage, rateId: string | null) =>
    rows.find((one) => one.language === language && one.rateId === rateId);
  return {
    byRate: rows.some(({ rateId }) => rateId !== null),
    of: (language, rateId) => ({
      letter: row(language, null)?.letter ?? null,
      added: [
        ...(row(language, null)?.added ?? []),
        ...(rateId === undefined ? [] : (row(language, rateId)?.added ?? [])),
      ],
    }),
  };
}
