import { parse } from 'csv-parse/sync';
import { z } from 'zod';
import { parseDay } from '../../core/dates/day.ts';

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
    /** The group of customers that they belong to; it is made where it is not there. */
    group: z.string().trim().max(80, 'group: has at most 80 characters').default(''),
    /** The key of a variant of the plan. */
    variant: z.string().trim().default(''),
    card_token: z.string().trim().default(''),
  })
  .superRefine((row, context) => {
    const says = (message: string) => context.addIssue({ code: 'custom', message });
    const given = [row.plan, row.rate, row.starts].filter((value) => value !== '').length;
    if (given !== 0 && given !== 3) says('plan, rate and starts: give all three, or none of them');
    if (row.starts !== '' && parseDay(row.starts) === null)
      says('starts: is not a date that exists (YYYY-MM-DD)');
    if (row.quantity !== '' && !/^[1-9]\d{0,8}$/.test(row.quantity))
      says('quantity: is a whole number from 1');
  });

export type CustomerRow = z.infer<typeof rowSchema> & { readonly line: number };

export interface Problem {
  readonly file: string;
  readonly line: number;
  readonly says: string;
}

const COLUMNS = [
  'reference',
  'name',
  'email',
  'plan',
  'rate',
  'starts',
  'quantity',
  'group',
  'variant',
  'card_token',
];
const REQUIRED = ['reference', 'name', 'email'];

/** Reads a customer file; what cannot be read becomes a problem with its line. */
export function readCustomers(file: string, text: string): { rows: CustomerRow[]; problems: Problem[] } {
  const rows: CustomerRow[] = [];
  const problems: Problem[] = [];
  let records: { info: { lines: number }; record: Record<string, string> }[];
  try {
    records = parse(text, {
      columns: true,
      bom: true,
      info: true,
      skip_empty_lines: true,
      relax_column_count: false,
    });
  } catch (error) {
    const { lines, message } = error as { lines?: number; message: string };
    return {
      rows,
      problems: [{ file, line: lines ?? 1, says: `This line cannot be read as CSV: ${message}` }],
    };
  }
  const header = Object.keys(records[0]?.record ?? {});
  for (const column of REQUIRED.filter((name) => records.length > 0 && !header.includes(name))) {
    problems.push({ file, line: 1, says: `The column "${column}" is missing.` });
  }
  for (const column of header.filter((name) => !COLUMNS.includes(name))) {
    problems.push({
      file,
      line: 1,
      says: `There is no column "${column}"; the columns are ${COLUMNS.join(', ')}.`,
    });
  }
  if (problems.length > 0) return { rows, problems };
  for (const { info, record } of records) {
    const parsed = rowSchema.safeParse(record);
    if (parsed.success) rows.push({ ...parsed.data, line: info.lines });
    else
      for (const { message } of parsed.error.issues) problems.push({ file, line: info.lines, says: message });
  }
  return { rows, problems };
}
