import { z } from 'zod';
import { mappingSchema, type Mapping } from './mappingMessages.ts';
import type { ImportReport } from './report.ts';

/** The most bytes of a file of what is offered, pictures and documents in it included. */
export const MOST_OFFER_BYTES = 40_000_000;

/** A file of what is offered comes as plain text. */
export const offerImportSchema = z.string('Choose a file.').min(1, 'Choose a file.');

export const offerImportQuery = z.object({
  /** Makes what differs what the file says, rates as new versions; otherwise it is left as it is. */
  update: z.enum(['yes', 'no']).default('no'),
});

/** One thing of a file held against what is stored. */
export interface OfferDifference {
  readonly what: string;
  readonly how:
    'new plan' | 'new rate' | 'new discount' | 'new variant' | 'new rate card' | 'same' | 'differs';
  readonly members: readonly { readonly member: string; readonly stored: string; readonly file: string }[];
}

export interface OfferImport {
  readonly problems: readonly { readonly line: number; readonly says: string }[];
  readonly differences: readonly OfferDifference[];
  readonly added: Readonly<Record<'plans' | 'rates' | 'discounts' | 'variants' | 'rateCards', number>>;
  readonly changed: Readonly<Record<'plans' | 'rates' | 'variants' | 'rateCards' | 'discounts', number>>;
}

/** The most bytes of a file of customers: some 500,000 rows. */
export const MOST_CUSTOMER_BYTES = 64_000_000;

/** How the columns of a file are understood. */
export const importMappingSchema = z.strictObject({ mapping: mappingSchema });

/** Where an import stands: its columns are being named, it is checked or brought in, or it came to an end. */
export type ImportState = 'new' | 'checking' | 'checked' | 'importing' | 'done' | 'broken';

/** One file of customers that somebody brings in. */
export interface ImportView {
  readonly id: string;
  readonly name: string;
  readonly header: readonly string[];
  /** Its first rows, as they stand in the file. */
  readonly sample: readonly (readonly string[])[];
  readonly mapping: Mapping;
  /** What the fields of the business's own are called. */
  readonly ownFields: readonly string[];
  /** The mapping is that of the last file with the same headings. */
  readonly isRemembered: boolean;
  readonly state: ImportState;
  /** Rows looked at, and how much of the file that is, from 0 to 1. */
  readonly done: number;
  readonly share: number;
  /** What a check found, or an import did; null before. */
  readonly report: ImportReport | null;
  /** How many rows can be given back to be mended. */
  readonly badRows: number;
  /** Why it was broken off. */
  readonly says: string;
  readonly madeBy: string;
}

/** An import in the list of them. */
export type ImportRow = Pick<ImportView, 'id' | 'name' | 'state' | 'madeBy'> & {
  readonly madeAt: string;
  readonly customers: number;
};

/** A row as it would be understood, or what is wrong with it. */
export type PreviewRow =
  | { readonly line: number; readonly row: Readonly<Record<string, string>> }
  | { readonly line: number; readonly says: string };
