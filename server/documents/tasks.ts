import { layOutDocument } from './layOutDocument.ts';
import { layOutStatement, type PrintedStatement } from './layOutStatement.ts';
import { printPdf } from './printPdf.ts';
import type { PrintedDocument, PrintedLook } from './printed.ts';

/** What is asked of a thread that prints: a document, or a statement of account. */
export type ToPrint = { readonly look: PrintedLook } & (
  { readonly document: PrintedDocument } | { readonly statement: PrintedStatement }
);

/** What a thread that prints does. */
export default function print(asked: ToPrint): Promise<Uint8Array> {
  return printPdf(
    (look) =>
      'document' in asked ? layOutDocument(asked.document, look) : layOutStatement(asked.statement, look),
    asked.look,
  );
}
