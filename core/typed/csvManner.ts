/**
 * How files of figures are written (RFC 4180; UTF-8 with its mark, by which spreadsheets know it), as `csv-stringify` takes it. No
 * cell can become a formula: one that begins like one gets an apostrophe before it, but for a number below zero, which is none to
 * any spreadsheet.
 */
export const CSV_MANNER = {
  bom: true,
  record_delimiter: 'windows',
  escape_formulas: true,
  cast: {
    string: (value: string) => (/^-\d+(\.\d+)?$/.test(value) ? { value, escape_formulas: false } : value),
  },
} as const;
