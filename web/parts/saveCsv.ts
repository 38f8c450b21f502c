import { stringify } from 'csv-stringify/browser/esm/sync';

/** Saves figures that are on the screen as CSV (RFC 4180, UTF-8 with its mark). No cell can become a formula. */
export function saveCsv(
  name: string,
  columns: readonly string[],
  rows: readonly (readonly string[])[],
): void {
  const text = stringify(rows as string[][], {
    ...{ header: true, bom: true, record_delimiter: 'windows', escape_formulas: true, columns: [...columns] },
    // A number below zero is a number to any spreadsheet, and no formula.
    cast: { string: (value) => (/^-\d+(\.\d+)?$/.test(value) ? { value, escape_formulas: false } : value) },
  });
  const url = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = `${name}.csv`;
  link.click();
  URL.revokeObjectURL(url);
}
