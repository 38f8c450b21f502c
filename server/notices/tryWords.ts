import type { z } from 'zod';
import { fieldsOf, type LetterEvent, type LetterField } from '../../core/letters/events.ts';
import { piecesOf } from '../../core/letters/template.ts';
import type { Almanac } from '../almanac.ts';
import { localeFor } from '../customers/localeFor.ts';
import { settingsOf } from '../settings/settings.ts';
import { fieldsIn, formOf, writeOut } from './compose.ts';
import { exampleSays } from './exampleSays.ts';
import { lookOf } from './look.ts';
import { sendTest } from './testLetter.ts';
import { requireGoodWords } from './words.ts';
import type { testWordsSchema, TriedLetter, tryWordsSchema } from './wordsMessages.ts';

/** A letter in words that are being written, as somebody would read it. Nothing is kept, and nobody is written to. */
export async function tryWords(
  almanac: Almanac,
  event: LetterEvent,
  wanted: z.output<typeof tryWordsSchema>,
): Promise<TriedLetter> {
  requireGoodWords(event, wanted);
  const { language, letter, added, byRate } = wanted;
  const { says, from, rateId, how } = await exampleSays(almanac, event, wanted);
  const business = await settingsOf(almanac, 'business');
  const country = await countryOf(almanac, wanted.customerId);
  const manner = { language, locale: localeFor({ language, country }, business) };
  const ofRate = byRate.find((one) => one.rateId === rateId)?.added ?? [];
  const form = formOf(event, language, {
    letter: letter && {
      subject: letter.subject,
      paragraphs: letter.paragraphs,
      ...(letter.link === undefined ? {} : { link: letter.link }),
    },
    added: [...added, ...ofRate],
  });
  const fields = fieldsIn(says, manner);
  const named = new Set(
    [form.template.subject, ...form.template.paragraphs].flatMap((line) =>
      piecesOf(line).flatMap((piece) => ('field' in piece ? [piece.field] : [])),
    ),
  );
  const valueOf = (name: string) => fields[name as LetterField] ?? '';
  return {
    ...writeOut(form, await lookOf(almanac), fields),
    ...{ from, how },
    fields: Object.entries(fieldsOf(event)).map(([name, text]) => ({
      name,
      says: text,
      value: valueOf(name),
    })),
    empty: [...named].filter((name) => valueOf(name) === ''),
  };
}

/** Sends such a letter to an address, as a test; its links lead nowhere. */
export async function testWords(
  almanac: Almanac,
  event: LetterEvent,
  { to, ...wanted }: z.output<typeof testWordsSchema>,
): Promise<{ says: string }> {
  const { subject, html, plain } = await tryWords(almanac, event, wanted);
  return sendTest(almanac, to, { subject: `Test: ${subject}`, html, plain });
}

async function countryOf({ db }: Almanac, customerId: string | null): Promise<string | null> {
  if (customerId === null) return null;
  const row = await db.row<{ country: string | null }>(
    'select country from customers where id = $customerId',
    {
      customerId,
    },
  );
  return row?.country ?? null;
}
