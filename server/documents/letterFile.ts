import { createTransport } from 'nodemailer';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { senderOf } from '../notices/mailRoute.ts';
import { pdfOf, readDocument, fileNameOf, type DocumentFile } from './documentOf.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { PrintedDocument } from './printed.ts';
import { ublOf } from './ubl.ts';

/** An invoice as a letter that staff open in their own mail program (RFC 5322), with its PDF and its UBL. */
export async function letterFileOf(almanac: Almanac, id: string): Promise<DocumentFile> {
  const document = await readDocument(almanac, 'invoice', id);
  const { email, name } = await Customer.findByPk(document.customerId, { rejectOnEmpty: true });
  const { from } = await senderOf(almanac);
  const pdf = await pdfOf(almanac, document);
  const files = [pdf, ...ublWhere(document)];
  const due = document.dueOn === null ? '' : `, to be paid by ${sayDate(document.dueOn)}`;
  // Written out as it would be sent, and sent nowhere.
  const { message } = await createTransport({ streamTransport: true, buffer: true }).sendMail({
    ...{ from, to: email, subject: fileNameOf(document) },
    headers: { 'X-Unsent': '1' },
    text: `Dear ${name},\n\nHere is invoice ${document.number}: ${sayAmount(BigInt(document.total), document.currency)}${due}.\n\n${document.parties.legalName ?? ''}\n`,
    attachments: files.map((file) => ({
      ...{ filename: file.name, contentType: file.mediaType, content: file.bytes },
    })),
  });
  const bytes = Buffer.isBuffer(message) ? message : Buffer.alloc(0);
  return { name: `${fileNameOf(document)}.eml`, mediaType: 'message/rfc822', bytes };
}

/** The UBL of an invoice, where there can be one. */
function ublWhere(document: PrintedDocument): DocumentFile[] {
  try {
    return [ublOf(document)];
  } catch (error) {
    if (error instanceof RefusedCommand) return [];
    throw error;
  }
}
