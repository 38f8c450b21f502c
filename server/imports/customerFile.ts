import { pipeline } from 'node:stream';
import { parse } from 'csv-parse';
import { z } from 'zod';
import { parseDay } from '../../core/dates/day.ts';
import { exponentOf } from '../../core/money/currency.ts';
import { readAmountOfFile } from '../../core/typed/amount.ts';
import { readDate } from '../../core/typed/date.ts';
import { countries, isCountry, sayCountry } from '../../core/words/countries.ts';
import { isLanguage, languages } from '../../core/words/languages.ts';
import type { OwnField } from '../customers/placeMessages.ts';
import { isPostcodeOf } from '../customers/places.ts';
import { isTaxNumberOf } from '../customers/taxNumbers.ts';
import { openCsv } from './csvText.ts';
import type { ImportFile } from './importFile.ts';
import { calledField, faultsOfMapping, isOwnField, mapped } from './mappingMessages.ts';
import type { Problem } from './problems.ts';

const upTo = (name: string, most: number) =>
  z.string().trim().max(most, `${name}: has at most ${most} characters`).default('');

const codes = new Map(countries().map(({ code, name }) => [name.toLowerCase(), code]));
/** The code of a country that is given by its code or its English name; what is neither stays as it is. */
const codeOf = (text: string) => codes.get(text.toLowerCase()) ?? text.toUpperCase();

const languageCodes = new Map(languages().map(({ code, name }) => [name.toLowerCase(), code]));
/** The code of a language that is given by its code, also with a region behind it, or its English name. */
const languageOf = (text: string) =>
  languageCodes.get(text.toLowerCase()) ?? text.toLowerCase().replace(/[-_].*$/, '');

/** A customer of the open CSV format (RFC 4180), with the subscription and card of the row, if it has them. */
const rowSchema = z
  .object({
    reference: z.string().trim().min(1, 'reference: every row needs one of its own').max(80),
    name: z.string().trim().min(1, 'name: is missing').max(200),
    email: z.email('email: is not an address'),
    plan: z.string().trim().default(''),
    rate: z.string().trim().default(''),
    starts: z.string().trim().default(''),
    quantity: z.string().trim().default(''),
    /** The customer's own amount, where the rate leaves it to them; and the currency, held against that of the rate. */
    amount: z.string().trim().max(60, 'amount: is too long').default(''),
    currency: z.string().trim().toUpperCase().max(3, 'currency: is a code such as GBP').default(''),
    phone: upTo('phone', 40),
    organisation: upTo('organisation', 200),
    address: upTo('address', 500),
    postcode: upTo('postcode', 20),
    /** A code of ISO 3166-1, or the English name. */
    country: z
      .string()
      .trim()
      .transform(codeOf)
      .refine((code) => code === '' || isCountry(code), 'country: is no country that is known here')
      .default(''),
    region: upTo('region', 60),
    /** A code of ISO 639-1, or the English name. */
    language: z
      .string()
      .trim()
      .transform(languageOf)
      .refine((code) => code === '' || isLanguage(code), 'language: is no language that is known here')
      .default(''),
    tax_number: upTo('tax_number', 40),
    tax_exempt: upTo('tax_exempt', 200),
    /** The group of customers that they belong to; it is made where it is not there. */
    group: z.string().trim().max(80, 'group: has at most 80 characters').default(''),
    /** The key of a variant of the plan. */
    variant: z.string().trim().default(''),
    card_token: z.string().trim().max(200, 'card_token: has at most 200 characters').default(''),
  })
  .superRefine((row, context) => {
    const says = (message: string) => context.addIssue({ code: 'custom', message });
    const given = [row.plan, row.rate, row.starts].filter((value) => value !== '').length;
    if (given !== 0 && given !== 3) says('plan, rate and starts: give all three, or none of them');
    if (!isPostcodeOf(row.postcode, row.country))
      says(`postcode: ${row.postcode} is no postcode of ${sayCountry(row.country)}`);
    if (!isTaxNumberOf(row.tax_number, row.country))
      says(`tax_number: ${row.tax_number} is no tax number of ${sayCountry(row.country)}`);
    if (row.quantity !== '' && !/^[1-9]\d{0,8}$/.test(row.quantity))
      says('quantity: is a whole number from 1');
  });

export type CustomerRow = z.infer<typeof rowSchema> & {
  readonly line: number;
  /** What stands in columns of the business's own fields, by their labels. */
  readonly own: readonly OwnField[];
};

const COLUMNS = Object.keys(rowSchema.shape);
const REQUIRED = ['reference', 'name', 'email'];

/** How the business writes dates, and its business date. */
export interface Manner {
  readonly locale: string;
  /** What amounts are in where nothing is said. */
  readonly homeCurrency: string;
  readonly today: string;
}

/** So many rows are read, and stored, together. */
const BATCH = 500;

/** A row of so many characters is none: a quotation mark in it was not closed. */
const MOST_OF_ROW = 100_000;

/** A file whose first line names other columns than ours: its rows are not read. */
class OddHeader extends Error {}

/** Rows of a customer file that can be read, and how much of the file lies behind, from 0 to 1. */
export interface CustomerBatch {
  readonly rows: CustomerRow[];
  readonly share: number;
}

/**
 * Reads a customer file as it flows by, so that a long one takes no more memory than a short one; what cannot be read
 * becomes a problem with its line.
 */
export async function* readCustomers(
  file: ImportFile,
  tell: (problem: Problem) => void,
  manner: Manner,
): AsyncGenerator<CustomerBatch, void, void> {
  const { name, mapping } = file;
  const { stream, delimiter, size } = await openCsv(file);
  /** The last line of the last row that could be read. */
  let read = 1;
  const parser = parse({
    columns: (header: string[]) => {
      const problems = mapping
        ? faultsOfMapping(mapping, header).map(({ field, says }) => `${calledField(field)}: ${says}`)
        : faultsOfHeader(header);
      for (const says of problems) tell({ file: name, line: 1, says });
      if (problems.length > 0) throw new OddHeader();
      return header;
    },
    bom: true,
    delimiter,
    info: true,
    skip_empty_lines: true,
    relax_column_count: false,
    max_record_size: MOST_OF_ROW,
    on_record: (record: Parsed, { lines }) => {
      read = lines;
      return record;
    },
  });
  pipeline(stream, parser, () => undefined);
  let rows: CustomerRow[] = [];
  try {
    for await (const { info, record } of parser as AsyncIterable<Parsed>) {
      for (const row of rowsOf(mapping ? mapped(record, mapping) : record, info.lines, manner)) {
        if ('says' in row) tell({ file: name, ...row });
        else rows.push(row);
      }
      if (rows.length < BATCH) continue;
      yield { rows, share: size === 0 ? 1 : Math.min(1, info.bytes / size) };
      rows = [];
    }
  } catch (error) {
    if (error instanceof OddHeader) return;
    const { code, lines, message } = error as { code?: string; lines?: number; message: string };
    if (!code?.startsWith('CSV_')) throw error;
    const isOpen = ['CSV_QUOTE_NOT_CLOSED', 'CSV_MAX_RECORD_SIZE'].includes(code);
    tell({
      file: name,
      line: isOpen ? read + 1 : (lines ?? 1),
      says: `This line cannot be read as CSV: ${isOpen ? 'a quotation mark is opened in it and not closed.' : message}`,
    });
  }
  yield { rows, share: 1 };
}

interface Parsed {
  readonly info: { readonly lines: number; readonly bytes: number };
  readonly record: Readonly<Record<string, string>>;
}

function faultsOfHeader(header: readonly string[]): string[] {
  const missing = REQUIRED.filter((column) => !header.includes(column));
  const odd = header.filter((column) => !COLUMNS.includes(column) && !isOwnField(column));
  const twice = new Set(
    header.filter(
      (column, i) => header.indexOf(column) !== i && (COLUMNS.includes(column) || isOwnField(column)),
    ),
  );
  return [
    ...missing.map((column) => `The column "${column}" is missing.`),
    ...odd.map(
      (column) =>
        `There is no column "${column}"; the columns are ${COLUMNS.join(', ')}, and "field:" with the name of a field of your own.`,
    ),
    ...[...twice].map((column) => `The column "${column}" stands here twice.`),
  ];
}

/** A record as a row, or what is wrong with it. */
function rowsOf(
  record: Parsed['record'],
  line: number,
  manner: Manner,
): (CustomerRow | { line: number; says: string })[] {
  if (Object.values(record).some((value) => value.includes('\0')))
    return [{ line, says: 'There is a character here that no text holds (NUL).' }];
  const parsed = rowSchema.safeParse(record);
  const starts = dayOf((record.starts ?? '').trim(), manner);
  const amount = amountOf((record.amount ?? '').trim(), (record.currency ?? '').trim(), manner);
  const own = ownOf(record);
  const tooLong = own.find(({ value }) => value.length > 500);
  const wrong = [
    ...(tooLong ? [`${tooLong.label}: has at most 500 characters`] : []),
    ...('says' in amount ? [`amount: ${amount.says}`] : []),
    ...(parsed.success ? [] : parsed.error.issues.map(({ message }) => message)),
    ...(starts === null ? [`starts: is not a date that exists (YYYY-MM-DD, or ${exampleOf(manner)})`] : []),
  ];
  return parsed.success && starts !== null && !('says' in amount) && !tooLong
    ? [{ ...parsed.data, starts, amount: amount.read, own, line }]
    : wrong.map((says) => ({ line, says }));
}

/** What stands in columns of the business's own fields. */
const ownOf = (record: Parsed['record']): OwnField[] =>
  Object.entries(record).flatMap(([name, value]) =>
    isOwnField(name) && value.trim() !== '' ? [{ label: calledField(name), value: value.trim() }] : [],
  );

/** An amount as the file has it, with a decimal point or comma; empty where there is none. */
function amountOf(
  text: string,
  currency: string,
  { locale, homeCurrency }: Manner,
): { readonly read: string } | { readonly says: string } {
  if (text === '') return { read: '' };
  const code = currency === '' ? homeCurrency : currency.toUpperCase();
  if (exponentOf(code) === null) return { says: `"${currency}" is no currency that is known here` };
  const found = readAmountOfFile(text, locale, { currency: code, decimals: 4 });
  return found.ok ? { read: found.value } : { says: found.says };
}

/** Figures with a day, a month and a year, or a month in letters: what a spreadsheet makes of a date. */
const WHOLE_DATE = /^\d{1,4}([./\s-]+\d{1,2}[./\s-]+|[.\s-]+\p{L}+[.\s-]+)\d{2,4}$/u;

/** A date as the file has it, in the order of figures of the business; empty where there is none, null where it is no date. */
function dayOf(text: string, { locale, today }: Manner): string | null {
  if (text === '' || parseDay(text) !== null) return text;
  const found = WHOLE_DATE.test(text) ? readDate(text, locale, { today }) : null;
  return found?.ok ? found.value : null;
}

/** The last day of a year in the figures of the business: '31/12/2026'. */
const exampleOf = ({ locale, today }: Manner) =>
  new Intl.DateTimeFormat(locale, { timeZone: 'UTC' }).format(new Date(`${today.slice(0, 4)}-12-31`));
