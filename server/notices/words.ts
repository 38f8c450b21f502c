import { createHash } from 'node:crypto';
import type { z } from 'zod';
import { factsOf, isLetterEvent, LETTER_EVENTS, type LetterEvent } from '../../core/letters/events.ts';
import { faultsOfWords, piecesOf } from '../../core/letters/template.ts';
import { letterWords } from '../../core/letters/wordsOf.ts';
import { PAGE_LANGUAGES, type PageLanguage } from '../../core/words/signUp/languages.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { readAnew } from '../db/readOnce.ts';
import { ConflictingEdit, RefusedCommand, RefusedFields } from '../http/problem.ts';
import type { OwnWordsRow } from './ownWords.ts';
import type { changeWordsSchema, LetterWordsRow, LetterWordsView } from './wordsMessages.ts';
import type { Transaction } from 'sequelize';
import type { Fault } from '../../core/terms/fault.ts';

interface StoredWords extends OwnWordsRow {
  readonly rate: string;
  readonly changedBy: string;
  readonly changedAt: Date;
}

/** The event of a name that somebody gave. */
export function eventNamed(name: string): LetterEvent {
  if (!isLetterEvent(name)) throw new RefusedCommand(404, 'There is no such letter.');
  return name;
}

function storedWords({ db }: Almanac, event: LetterEvent, within?: Transaction): Promise<StoredWords[]> {
  return db.rows<StoredWords>(
    `select w.event, w.language, w.rate_id::text as "rateId", w.letter, w.added, w.changed_by as "changedBy",
       w.changed_at as "changedAt", coalesce(p.name || ', ' || r.name, '') as rate
     from letter_words w left join rates r on r.id = w.rate_id left join plans p on p.id = r.plan_id
     where w.event = $event order by w.language, p.name, r.name, w.id`,
    { event },
    within,
  );
}

/** Every letter, and where its words are the business's own. */
export async function listWords(almanac: Almanac): Promise<LetterWordsRow[]> {
  const rows = await almanac.db.rows<Pick<OwnWordsRow, 'event' | 'language' | 'rateId' | 'letter' | 'added'>>(
    'select event, language, rate_id::text as "rateId", letter, added from letter_words order by id',
  );
  return (Object.keys(LETTER_EVENTS) as LetterEvent[]).map((event) => {
    const own = rows.filter((row) => row.event === event);
    const inLanguages = (which: (row: (typeof own)[number]) => boolean) =>
      languagesOf(own.filter(which).map(({ language }) => language));
    return {
      ...{ event, says: factsOf(event).says },
      ownIn: inLanguages(({ letter }) => letter !== null),
      addedIn: inLanguages(({ added }) => added.length > 0),
      ofRates: new Set(own.flatMap(({ rateId }) => (rateId === null ? [] : [rateId]))).size,
    };
  });
}

const languagesOf = (codes: readonly PageLanguage[]) =>
  (Object.keys(PAGE_LANGUAGES) as PageLanguage[]).filter((one) => codes.includes(one));

/** The words of letters of an event in a language. */
export async function readWords(
  almanac: Almanac,
  event: LetterEvent,
  language: PageLanguage,
  within?: Transaction,
): Promise<LetterWordsView> {
  const all = await storedWords(almanac, event, within);
  const rows = all.filter((row) => row.language === language);
  const own = rows.find(({ rateId }) => rateId === null);
  const newest = rows.toSorted((a, b) => b.changedAt.getTime() - a.changedAt.getTime())[0];
  const values = rows.map(({ rateId, letter, added }) => ({ rateId, letter, added }));
  return {
    ...{ event, language, says: factsOf(event).says, standard: letterWords(language).letters[event] },
    letter: own?.letter ?? null,
    added: own?.added ?? [],
    byRate: rows.flatMap(({ rateId, rate, added }) => (rateId === null ? [] : [{ rateId, rate, added }])),
    changedIn: languagesOf(all.map((row) => row.language)),
    version: createHash('md5').update(JSON.stringify(values)).digest('hex'),
    changedBy: newest?.changedBy ?? '',
    changedAt: newest?.changedAt.toISOString() ?? '',
  };
}

/**
 * Refuses words that name what the letter does not have, that would not come to an end, or that leave out what it has to say.
 * @throws {@link RefusedFields} with each of them at its place
 */
export function requireGoodWords(
  event: LetterEvent,
  { letter, added, byRate }: Pick<z.output<typeof changeWordsSchema>, 'letter' | 'added' | 'byRate'>,
): void {
  const faults: Fault[] = [];
  const check = (words: Parameters<typeof faultsOfWords>[1], pointer: (at: number) => string) => {
    for (const { at, says } of faultsOfWords(event, words))
      faults.push({ pointer: typeof at === 'number' ? pointer(at) : `/letter/${at}`, detail: says });
  };
  if (letter) {
    const { link, ...rest } = letter;
    check({ ...rest, ...(link === undefined ? {} : { link }) }, (at) => `/letter/paragraphs/${at}`);
  }
  check({ paragraphs: added }, (at) => `/added/${at}`);
  byRate.forEach((one, i) => check({ paragraphs: one.added }, (at) => `/byRate/${i}/added/${at}`));
  if (letter && faults.length === 0) {
    const named = new Set(
      letter.paragraphs.flatMap((line) =>
        piecesOf(line).flatMap((piece) => ('field' in piece ? [piece.field] : [])),
      ),
    );
    const { needs = [], fields } = factsOf(event);
    const lacks = needs.filter((field) => !named.has(field));
    if (lacks.length > 0)
      faults.push({
        pointer: '/letter/paragraphs',
        detail: `This letter has to say: ${lacks.map((field) => `${fields[field] ?? field} ({{ ${field} }})`).join('; ')}.`,
      });
  }
  if (faults.length > 0) throw new RefusedFields('These words would not make a letter.', faults);
}

/** Changes the words of letters of an event in a language. Letters that are written already stay as they are. */
export async function changeWords(
  almanac: Almanac,
  event: LetterEvent,
  { version, ...wanted }: z.output<typeof changeWordsSchema>,
): Promise<LetterWordsView> {
  requireGoodWords(event, wanted);
  const { language, letter, added, byRate } = wanted;
  await almanac.db.transaction(async (within) => {
    await almanac.db.rows(
      `select pg_advisory_xact_lock(hashtext('letter words ' || $event || ' ' || $language))`,
      { event, language },
      within,
    );
    const before = await readWords(almanac, event, language, within);
    if (before.version !== version)
      throw new ConflictingEdit({ value: before, version: 0, changedBy: before.changedBy });
    await requireRates(
      almanac,
      byRate.map(({ rateId }) => rateId),
      within,
    );
    const rows = [
      ...(letter || added.length > 0 ? [{ rateId: null, letter, added }] : []),
      ...byRate.flatMap((one) => (one.added.length > 0 ? [{ ...one, letter: null }] : [])),
    ];
    await almanac.db.rows(
      'delete from letter_words where event = $event and language = $language',
      { event, language },
      within,
    );
    for (const row of rows)
      await almanac.db.rows(
        `insert into letter_words (event, language, rate_id, letter, added, changed_by)
         values ($event, $language, $rateId, $letter::jsonb, $added::jsonb, $who)`,
        {
          ...{ event, language, rateId: row.rateId, who: askerNow().who },
          letter: row.letter && JSON.stringify(row.letter),
          added: JSON.stringify(row.added),
        },
        within,
      );
    readAnew(within);
    const { letter: was, added: had, byRate: rates } = before;
    await recordDone(
      almanac,
      {
        did: 'changed the words of a letter',
        subject: `${factsOf(event).says} (${PAGE_LANGUAGES[language]})`,
        before: { letter: was, added: had, byRate: rates },
        after: { letter, added, byRate },
      },
      within,
    );
  });
  return readWords(almanac, event, language);
}

async function requireRates({ db }: Almanac, ids: readonly string[], within: Transaction): Promise<void> {
  const known = await db.rows<{ id: string }>(
    'select id::text from rates where id = any($ids::bigint[])',
    { ids },
    within,
  );
  const at = ids.findIndex((id) => !known.some((rate) => rate.id === id));
  if (at >= 0) throw new RefusedCommand(422, 'There is no such rate.', `/byRate/${at}/rateId`);
}
