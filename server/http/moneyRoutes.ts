import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { accountOf } from '../customers/account.ts';
import { accountQuery } from '../customers/accountMessages.ts';
import { statementOf } from '../documents/statementOf.ts';
import { sendCsv } from './csv.ts';
import { allCreditNotes, listCreditNotes } from '../creditNotes/creditNoteList.ts';
import { correctInvoice, effectOfCorrecting } from '../creditNotes/correctInvoice.ts';
import { correctionSchema, reasonSchema } from '../creditNotes/messages.ts';
import { pdfOf, readDocument, type DocumentFile } from '../documents/documentOf.ts';
import { letterFileOf } from '../documents/letterFile.ts';
import { makePayLink } from '../documents/payLink.ts';
import { previewOfNext } from '../documents/previewNext.ts';
import { sendFile } from '../documents/sendFile.ts';
import { ublOf } from '../documents/ubl.ts';
import { countDocuments, zipDocuments } from '../documents/zipDocuments.ts';
import { effectOfWritingOff, writeOffInvoice } from '../invoices/giveUp.ts';
import { allInvoices, listInvoices } from '../invoices/invoiceList.ts';
import { payFromCredit } from '../invoices/payFromCredit.ts';
import { readInvoice } from '../invoices/readInvoice.ts';
import { costsOf } from '../gateways/methodCosts.ts';
import { chargeByStaff, staffChargeSchema } from '../payments/chargeByStaff.ts';
import { allPayments, listPayments } from '../payments/paymentList.ts';
import { readPayment } from '../payments/readPayment.ts';
import { askForRefund } from '../refunds/askForRefund.ts';
import { payOutSchema, refundSchema } from '../refunds/messages.ts';
import { effectOfPayOut, payOut } from '../refunds/payOut.ts';
import { refundablesOf } from '../refunds/refundable.ts';
import { effectOfRefund, refundPayment } from '../refunds/refundPayment.ts';
import { takingSchema } from '../takings/messages.ts';
import { effectOfTaking, payableInvoices, take } from '../takings/take.ts';
import { ofCustomer } from './list.ts';
import { ACCOUNT_COLUMNS, CREDIT_NOTE_CSV, INVOICE_COLUMNS, PAYMENT_COLUMNS } from './listColumns.ts';
import { addList } from './listRoutes.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';

/** Invoices and what corrects them; payments, those taken by hand, and what goes back. */
export function moneyRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  addList(routes, almanac, '/api/invoices', {
    ...{ may, name: 'invoices', columns: INVOICE_COLUMNS, query: ofCustomer },
    list: (query) => listInvoices(almanac, query),
    all: (query) => allInvoices(almanac, query),
  });
  routes.add('get', '/api/invoices/:id', {
    may,
    answer: ({ params }) => readInvoice(almanac, params.id ?? ''),
  });
  documentRoutes(routes, almanac);
  routes.add('post', '/api/invoices/:id/credit-notes/effect', {
    may: WRITERS,
    did: 'looked at what a credit note would do',
    changesNothing: true,
    body: correctionSchema,
    answer: ({ params, body }) => effectOfCorrecting(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/invoices/:id/credit-notes', {
    may: WRITERS,
    did: 'issued a credit note',
    body: correctionSchema,
    answer: ({ params, body }) => correctInvoice(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/invoices/:id/write-off/effect', {
    may: WRITERS,
    did: 'looked at what writing an invoice off would do',
    changesNothing: true,
    answer: ({ params }) => effectOfWritingOff(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/invoices/:id/write-off', {
    may: WRITERS,
    did: 'wrote an invoice off',
    body: z.strictObject({ reason: reasonSchema }),
    answer: ({ params, body }) => writeOffInvoice(almanac, params.id ?? '', body.reason),
  });
  routes.add('post', '/api/invoices/:id/credit', {
    may: WRITERS,
    did: 'paid an invoice from credit',
    answer: ({ params }) => payFromCredit(almanac, params.id ?? ''),
  });
  addList(routes, almanac, '/api/credit-notes', {
    ...{ may, name: 'credit-notes', columns: CREDIT_NOTE_CSV, query: ofCustomer },
    list: (query) => listCreditNotes(almanac, query),
    all: (query) => allCreditNotes(almanac, query),
  });
  addList(routes, almanac, '/api/payments', {
    ...{ may, name: 'payments', columns: PAYMENT_COLUMNS, query: ofCustomer },
    list: (query) => listPayments(almanac, query),
    all: (query) => allPayments(almanac, query),
  });
  routes.add('get', '/api/payments/:id', {
    may,
    answer: ({ params }) => readPayment(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/payments/:id/refund/effect', {
    may: WRITERS,
    did: 'looked at what a refund would do',
    changesNothing: true,
    body: refundSchema,
    answer: ({ params, body }) => effectOfRefund(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/payments/:id/refund', {
    may: WRITERS,
    did: 'paid money back',
    body: refundSchema,
    answer: ({ params, body }) => refundPayment(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/refunds/:id/ask', {
    may: WRITERS,
    did: 'asked the gateway about a refund',
    answer: async ({ params }) => ({
      state: await askForRefund(almanac, params.id ?? '', await businessDateOf(almanac)),
    }),
  });
  routes.add('get', '/api/method-costs', {
    may,
    query: z.object({
      amount: z.string().regex(/^\d{1,15}$/),
      currency: z.string().length(3),
    }),
    answer: ({ query }) => costsOf(almanac, BigInt(query.amount), query.currency),
  });
  takingRoutes(routes, almanac);
}

/** Documents as files: PDF, UBL, a letter; and links to pay. */
function documentRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  const files: readonly (readonly [string, (id: string) => Promise<DocumentFile>])[] = [
    [
      '/api/invoices/:id/document.pdf',
      async (id) => pdfOf(almanac, await readDocument(almanac, 'invoice', id)),
    ],
    ['/api/invoices/:id/document.xml', async (id) => ublOf(await readDocument(almanac, 'invoice', id))],
    ['/api/invoices/:id/letter.eml', (id) => letterFileOf(almanac, id)],
    ['/api/subscriptions/:id/next-invoice.pdf', (id) => previewOfNext(almanac, id)],
    [
      '/api/credit-notes/:id/document.pdf',
      async (id) => pdfOf(almanac, await readDocument(almanac, 'credit note', id)),
    ],
    [
      '/api/credit-notes/:id/document.xml',
      async (id) => ublOf(await readDocument(almanac, 'credit note', id)),
    ],
  ];
  for (const [path, read] of files)
    routes.add('get', path, {
      may,
      answer: async ({ params, response }) => sendFile(response, await read(params.id ?? '')),
    });
  routes.add('get', '/api/documents.zip', {
    may,
    query: z.object({ from: z.iso.date(), until: z.iso.date() }),
    deadlineMs: ZIP_DEADLINE_MS,
    answer: ({ query, response, signal }) => zipDocuments(almanac, query, response, signal),
  });
  routes.add('get', '/api/documents/count', {
    may,
    query: z.object({ from: z.iso.date(), until: z.iso.date() }),
    answer: async ({ query }) => ({ documents: await countDocuments(almanac, query) }),
  });
  routes.add('post', '/api/invoices/:id/pay-link', {
    may: WRITERS,
    did: 'made a link to pay an invoice',
    givesSecret: true,
    answer: ({ params }) => makePayLink(almanac, params.id ?? ''),
  });
}

/** All documents of a month are printed as they are sent. */
const ZIP_DEADLINE_MS = 30 * 60_000;

/** All rows of a short list at once. */
async function* inOne<Row>(rows: Row[]): AsyncGenerator<Row[]> {
  yield await Promise.resolve(rows);
}

/** Money that staff take for a customer, and credit that is paid out to one. */
function takingRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  routes.add('get', '/api/customers/:id/account', {
    may,
    query: accountQuery,
    answer: ({ params, query }) => accountOf(almanac, params.id ?? '', query),
  });
  routes.add('get', '/api/customers/:id/account.pdf', {
    may,
    query: accountQuery,
    answer: async ({ params, query, response }) =>
      sendFile(response, await statementOf(almanac, params.id ?? '', query)),
  });
  routes.add('get', '/api/customers/:id/account.csv', {
    may,
    query: accountQuery,
    answer: async ({ params, query, response, signal }) => {
      const { currency, opening, lines } = await accountOf(almanac, params.id ?? '', query);
      const before = {
        ...{ on: query.from, kind: 'opening' as const, about: '', amount: null },
        ...{ invoiceId: null, balance: opening },
      };
      const rows = [before, ...lines].map((row) => ({ ...row, currency }));
      await sendCsv(response, 'statement', ACCOUNT_COLUMNS, inOne(rows), signal);
    },
  });
  routes.add('get', '/api/customers/:id/payable', {
    may,
    answer: ({ params }) => payableInvoices(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/takings/effect', {
    may: WRITERS,
    did: 'looked at what a payment by hand would do',
    changesNothing: true,
    body: takingSchema,
    answer: ({ params, body }) => effectOfTaking(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/customers/:id/takings', {
    may: WRITERS,
    did: 'took a payment by hand',
    body: takingSchema,
    answer: ({ params, body }) => take(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/customers/:id/charges', {
    may: WRITERS,
    did: 'charged a card by hand',
    body: staffChargeSchema,
    answer: ({ params, body }) => chargeByStaff(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/customers/:id/refundable', {
    may,
    answer: ({ params }) => refundablesOf(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/pay-outs/effect', {
    may: WRITERS,
    did: 'looked at what paying out credit would do',
    changesNothing: true,
    body: payOutSchema,
    answer: ({ params, body }) => effectOfPayOut(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/customers/:id/pay-outs', {
    may: WRITERS,
    did: 'paid money back',
    body: payOutSchema,
    answer: ({ params, body }) => payOut(almanac, params.id ?? '', body),
  });
}
