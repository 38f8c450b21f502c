import type { Mapping } from './mappingMessages.ts';

/** A file that is to be imported: its text, or where it lies, to be read as it is needed. */
export type ImportFile = (
  { readonly name: string; readonly text: string } | { readonly name: string; readonly path: string }
) & {
  /** Of what the fields of a customer are made, where the columns are not ours. */
  readonly mapping?: Mapping;
};
