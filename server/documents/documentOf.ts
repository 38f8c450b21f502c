import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { printDocument } from './print.ts';
import { printedLook, readCreditNotes, readInvoices } from './readDocuments.ts';
import type { PrintedDocument } from './printed.ts';

/** A document as a file. */
export interface DocumentFile {
  readonly name: string;
  readonly mediaType: string;
  readonly bytes: Buffer;
}

/** One invoice or credit note as it is printed; a refusal where there is none, or it is not of the customer. */
export async function readDocument(
  almanac: Almanac,
  kind: PrintedDocument['kind'],
  id: string,
  customerId?: string,
): Promise<PrintedDocument> {
  const [document] = await (kind === 'invoice'
    ? readInvoices(almanac, [id])
    : readCreditNotes(almanac, [id]));
  if (!document || (customerId !== undefined && document.customerId !== customerId))
    throw new RefusedCommand(
      404,
      kind === 'invoice' ? 'There is no such invoice.' : 'There is no such credit note.',
    );
  return document;
}

/** A document as PDF. */
export async function pdfOf(almanac: Almanac, document: PrintedDocument): Promise<DocumentFile> {
  const bytes = await printDocument(document, await printedLook(almanac));
  return { name: `${fileNameOf(document)}.pdf`, mediaType: 'application/pdf', bytes };
}

/** A name that every file system takes: 'Invoice FH-1042'. */
export function fileNameOf({ kind, number }: Pick<PrintedDocument, 'kind' | 'number'>): string {
  const safe = number.replace(/[^\p{L}\p{N} ._-]/gu, '-');
  return `${kind === 'invoice' ? 'Invoice' : 'Credit note'} ${safe}`;
}

/**
 * The documents that go with a letter, as they were issued: printed again for the same letter they are the same.
 * @param payLink where the letter's reader can pay; empty: nowhere
 */
export async function documentsWith(
  almanac: Almanac,
  of: { readonly invoiceId: string | null; readonly creditNoteId: string | null },
  payLink: string,
): Promise<DocumentFile[]> {
  const documents = [
    ...(of.invoiceId === null ? [] : await readInvoices(almanac, [of.invoiceId])),
    ...(of.creditNoteId === null ? [] : await readCreditNotes(almanac, [of.creditNoteId])),
  ];
  return Promise.all(
    documents.map((document) =>
      pdfOf(almanac, {
        ...document,
        owed: null,
        payLink: document.kind === 'invoice' && payLink !== '' ? payLink : null,
      }),
    ),
  );
}
