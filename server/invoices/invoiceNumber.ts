import type { Almanac } from '../almanac.ts';

/** The number of an invoice that somebody looks for, as it is stored: `FH-1042` or `1042`; null where it is something else. */
export async function invoiceNumberSought({ db }: Almanac, search: string): Promise<string | null> {
  const [, before = '', number] = /^(.*?)(\d{1,15})$/.exec(search) ?? [];
  if (number === undefined) return null;
  if (before === '') return number;
  const series = await db.row('select from invoice_series where lower(prefix) = lower($before) limit 1', {
    before,
  });
  return series ? number : null;
}
