import { stringify } from 'csv-stringify/browser/esm/sync';
import { CSV_MANNER } from '../../core/typed/csvManner.ts';

/** Figures as the text of a file, in the manner of {@link CSV_MANNER}. */
export function csvOf(columns: readonly string[], rows: readonly (readonly string[])[]): string {
  return stringify(rows as string[][], { ...CSV_MANNER, header: true, columns: [...columns] });
}

/** Saves figures that are on the screen as a file. */
export function saveCsv(
  name: string,
  columns: readonly string[],
  rows: readonly (readonly string[])[],
): void {
  const url = URL.createObjectURL(new Blob([csvOf(columns, rows)], { type: 'text/csv' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = `${name}.csv`;
  link.click();
  URL.revokeObjectURL(url);
}
