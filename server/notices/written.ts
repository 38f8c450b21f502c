import { writeOut, type ComposedLetter, type LetterForm } from './compose.ts';
import type { LetterLook } from './layOut.ts';
import type { LetterFields, Template } from './templates.ts';

/** A letter as it is stored: what it says, or, of an earlier release, what it looked like. */
export interface StoredLetter {
  readonly subject: string;
  readonly html: string | null;
  readonly plain: string | null;
  readonly fields: LetterFields | null;
  readonly form: (Omit<LetterForm, 'template'> & { readonly form: Template }) | null;
  readonly look: LetterLook | null;
  /** Documents that go with it. */
  readonly files: readonly string[] | null;
  readonly invoice_id: string | null;
  readonly credit_note_id: string | null;
}

/** Select these of letters `l`, with {@link STORED_FROM}. */
export const STORED = `l.subject, l.html, l.plain, l.fields, k.look, l.files::text[] as files, l.invoice_id::text, l.credit_note_id::text,
  case when f.id is not null then
    json_build_object('event', f.event, 'language', f.language, 'layout', f.layout, 'form', f.form) end as form`;
export const STORED_FROM = `letters l left join letter_forms f on f.id = l.form_id left join letter_looks k on k.id = l.look_id`;

/** A stored letter written out: the bytes that its reader got, or will get, but for the link. */
export function writtenOut(letter: StoredLetter): ComposedLetter {
  const { subject, html, plain, fields, form, look } = letter;
  if (html !== null && plain !== null) return { subject, html, plain };
  if (!fields || !form || !look) throw new Error('A letter is kept without what it is written by.');
  const { form: template, ...rest } = form;
  return writeOut({ ...rest, template }, look, fields);
}
