import type { RecurringTerms, TermsLine } from './schema.ts';

/** Every member of a document, those that may be left out undefined. */
export type MembersOf<Document> = { [Name in keyof Required<Document>]: Document[Name & keyof Document] };

type TermsMembers = MembersOf<RecurringTerms> & { readonly lines: TermsLine[] | undefined };

const emptyTerms = (): TermsMembers => ({
  currency: '',
  starts: '',
  lines: undefined as never,
  interval: '',
  on: undefined,
  trial: undefined,
  setup: undefined,
  once: undefined,
  stub: undefined,
  ends: undefined,
  endStub: undefined,
  discounts: undefined,
  tax: undefined,
  terms: undefined,
  workingDays: undefined,
  pauses: undefined,
  changes: undefined,
});

/**
 * The members of terms in an object of one shape, those that are left out undefined. Terms come in as many shapes as
 * there are ways to leave members out, and reading a member of each that is not there is slow; this reads what is there
 * once.
 */
export function termsInOneShape(document: object): TermsMembers {
  const members = emptyTerms() as Record<string, unknown>;
  for (const name in document) members[name] = (document as Record<string, unknown>)[name];
  return members as unknown as TermsMembers;
}
