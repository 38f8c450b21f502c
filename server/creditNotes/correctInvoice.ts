import { money, sentence } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import {
  correctAmount,
  correctInFull,
  correctLines,
  leftAfter,
  type Correctable,
  type Correction,
  type Left,
} from '../../core/correct/correct.ts';
import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { creditNoteIssued, type SalesOf } from '../books/entries.ts';
import { sayEntries } from '../books/sayEntry.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Invoice } from '../invoices/Invoice.ts';
import type { InvoiceLine, InvoiceTax } from '../invoices/invoiceParts.ts';
import { lockedInvoice, requireNothingUnderWay } from '../invoices/lockInvoice.ts';
import { writeAbout } from '../notices/occasions.ts';
import { closeIfPaid } from '../recovery/closeCase.ts';
import { RecoveryCase } from '../recovery/RecoveryCase.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import type { CorrectionEffect, WantedCorrection } from './messages.ts';
import { writeCreditNotes, type CreditNoteToWrite } from './writeCreditNotes.ts';

/** What correcting an invoice would do. Changes nothing. */
export function effectOfCorrecting(
  almanac: Almanac,
  id: string,
  wanted: WantedCorrection,
): Promise<CorrectionEffect> {
  return almanac.db.transaction(async (within) => (await prepare(almanac, id, wanted, within)).effect);
}

/** Corrects an invoice by a credit note, in a transaction of its own. */
export function correctInvoice(
  almanac: Almanac,
  id: string,
  wanted: WantedCorrection,
): Promise<CorrectionEffect> {
  return almanac.db.transaction((within) => correctWithin(almanac, id, wanted, within));
}

/**
 * Corrects an invoice by a credit note: what it still lacked is owed no more, the rest is the customer's credit. One that was
 * never paid and is taken back as a whole is withdrawn. A case of which nothing is owed any more is closed.
 */
export async function correctWithin(
  almanac: Almanac,
  id: string,
  wanted: WantedCorrection,
  within: Transaction,
): Promise<CorrectionEffect> {
  const { invoice, subscription, note, effect, today } = await prepare(almanac, id, wanted, within);
  const [written] = await writeCreditNotes(almanac, [note], today, within);
  if (!written) throw new Error(`No credit note was written for invoice ${id}.`);
  await invoice.reload({ transaction: within });
  noteAltered(within, subscription.id);
  await closeIfPaid(almanac, { subscription, invoice }, today, within);
  const done = { ...effect, number: written.number, id: written.id };
  if (wanted.writes) await tell(almanac, { subscription, done, reason: wanted.reason, today }, within);
  const { name } = await Customer.findByPk(invoice.customerId, { transaction: within, rejectOnEmpty: true });
  await recordDone(
    almanac,
    {
      did: effect.withdraws ? 'withdrew an invoice' : 'issued a credit note',
      subject: name,
      after: {
        ...{ invoice: effect.invoice, creditNote: written.number },
        ...{ total: sayAmount(BigInt(effect.total), effect.currency), reason: wanted.reason },
      },
    },
    within,
  );
  return done;
}

/** What can still be taken back of an invoice. */
export async function leftOf(almanac: Almanac, invoice: Invoice, within?: Transaction): Promise<Left> {
  const notes = await almanac.db.rows<{ lines: (InvoiceLine & { of: number })[]; taxes: InvoiceTax[] }>(
    'select lines, taxes from credit_notes where invoice_id = $id',
    { id: invoice.id },
    within,
  );
  const earlier = notes.map(({ lines, taxes }): Correction => ({
    lines: invoice.lines.map((_, i) => BigInt(lines.find((line) => line.of === i)?.amount ?? 0)),
    taxes: taxes.map(({ net, tax }) => ({ net: BigInt(net), tax: BigInt(tax) })),
    ...{ net: 0n, tax: 0n, total: 0n },
  }));
  return leftAfter(correctableOf(invoice), earlier);
}

function correctableOf({ lines, taxes }: Invoice): Correctable {
  return {
    lines: lines.map(({ amount, tax }) => ({ amount: BigInt(amount), tax: tax ?? null })),
    taxes: taxes.map(({ mode, net, tax }) => ({ mode, net: BigInt(net), tax: BigInt(tax) })),
  };
}

async function prepare(almanac: Almanac, id: string, wanted: WantedCorrection, within: Transaction) {
  const today = await businessDateOf(almanac, within);
  const { invoice, subscription } = await lockedInvoice(id, within);
  if (invoice.total <= 0n) throw new RefusedCommand(409, 'There is nothing on this invoice to take back.');
  if (invoice.state === 'written off')
    throw new RefusedCommand(409, 'It was written off: what is open of it was given up already.');
  await requireNothingUnderWay(almanac, invoice, within);
  const left = await leftOf(almanac, invoice, within);
  const correction = correctionOf(left, wanted, invoice);
  const setOff = correction.total < invoice.owed ? correction.total : invoice.owed;
  const isUntouched = invoice.owed === invoice.total;
  const withdraws = isUntouched && correction.total === invoice.total;
  const note = noteOf(invoice, correction, {
    ...{ setOff, withdraws, reason: wanted.reason },
    parties: await partiesHash(almanac, invoice, within),
  });
  const open = await RecoveryCase.findOne({
    where: { id: invoice.caseId ?? '0', state: 'open' },
    transaction: within,
  });
  const owed = invoice.owed - setOff;
  const effect: CorrectionEffect = {
    ...{ invoice: `${invoice.prefix}${invoice.number}`, currency: invoice.currency },
    lines: invoice.lines.flatMap(({ name }, i) => {
      const amount = correction.lines[i] ?? 0n;
      return amount === 0n ? [] : [{ name, amount: amount.toString() }];
    }),
    ...{ net: correction.net.toString(), tax: correction.tax.toString(), total: correction.total.toString() },
    ...{ setOff: setOff.toString(), toCredit: (correction.total - setOff).toString() },
    ...{ owed: owed.toString(), withdraws },
    closesCase: open !== null && (await isAllOf(almanac, open.id, invoice.id, within)) && owed === 0n,
    books: await sayEntries(almanac, [
      creditNoteIssued({ ...note, id: '0', issuedOn: today, toCredit: note.total - setOff }),
    ]),
    ...{ number: null, id: null },
  };
  return { invoice, subscription, note, effect, today };
}

/** What is taken back, or a refusal beside the field that asks for too much. */
function correctionOf(left: Left, { what }: WantedCorrection, { currency }: Invoice): Correction {
  if (left.total <= 0n) throw new RefusedCommand(409, 'All of this invoice was taken back already.');
  const most = `At most ${sayAmount(left.total, currency)} of it is left.`;
  switch (what.kind) {
    case 'all':
      return correctInFull(left);
    case 'amount': {
      const correction = correctAmount(left, BigInt(what.amount));
      if (!correction) throw new RefusedCommand(422, most, '/what/amount');
      return correction;
    }
    case 'lines': {
      const amounts = left.lines.map(() => 0n);
      what.lines.forEach(({ line, amount }, i) => {
        const had = left.lines[line];
        if (had === undefined)
          throw new RefusedCommand(422, 'There is no such line.', `/what/lines/${i}/line`);
        amounts[line] = (amounts[line] ?? 0n) + BigInt(amount);
        if (correctLines(left, amounts) === null)
          throw new RefusedCommand(
            422,
            `At most ${sayAmount(had, currency)} of this line is left.`,
            `/what/lines/${i}/amount`,
          );
      });
      const correction = correctLines(left, amounts);
      if (!correction || correction.total <= 0n)
        throw new RefusedCommand(422, 'Choose an amount above zero.', '/what/lines');
      return correction;
    }
  }
}

/** Whether a case is about one invoice alone. */
async function isAllOf(
  { db }: Almanac,
  caseId: string,
  invoiceId: string,
  within: Transaction,
): Promise<boolean> {
  const other = await db.row(
    `select from invoices where case_id = $caseId and id <> $invoiceId and state in ('issued', 'part-paid') limit 1`,
    { caseId, invoiceId },
    within,
  );
  return other === null;
}

async function partiesHash({ db }: Almanac, { partiesId }: Invoice, within: Transaction): Promise<string> {
  const row = await db.row<{ hash: string }>(
    `select encode(hash, 'hex') as hash from invoice_parties where id = $partiesId`,
    { partiesId },
    within,
  );
  return row?.hash ?? '';
}

/** The credit note of a correction: between the same parties as its invoice, with the same fields. */
function noteOf(
  invoice: Invoice,
  correction: Correction,
  of: {
    readonly setOff: bigint;
    readonly withdraws: boolean;
    readonly reason: string;
    readonly parties: string;
  },
): CreditNoteToWrite {
  const lines = invoice.lines.flatMap((line, i) => {
    const amount = correction.lines[i] ?? 0n;
    return amount === 0n ? [] : [{ ...line, of: i, amount: amount.toString(), discount: '0' }];
  });
  const taxes = invoice.taxes.map((tax, i) => ({
    ...tax,
    net: (correction.taxes[i]?.net ?? 0n).toString(),
    tax: (correction.taxes[i]?.tax ?? 0n).toString(),
  }));
  return {
    ...{ kind: of.withdraws ? ('withdrawal' as const) : ('correction' as const), settles: null },
    ...{ customerId: invoice.customerId, subscriptionId: invoice.subscriptionId, invoiceId: invoice.id },
    ...{ periodFrom: invoice.periodFrom, periodTo: invoice.periodTo, currency: invoice.currency },
    ...{ lines: JSON.stringify(lines), taxes: JSON.stringify(taxes) },
    ...{ net: correction.net, tax: correction.tax, total: correction.total, setOff: of.setOff },
    ...{ reason: of.reason, parties: of.parties, fields: JSON.stringify(invoice.fields) },
    ...{ account: invoice.account, lawTax: invoice.lawTax ? JSON.stringify(invoice.lawTax) : null },
    ...{ sales: salesOf(invoice, correction), issuedBy: askerNow().who },
  };
}

/** What of the net goes back from which account of sales: each account's lines, and the last of a tax what is left of it. */
function salesOf({ lines, taxes, account }: Invoice, correction: Correction): SalesOf {
  const sales = new Map<string, bigint>();
  const add = (code: string, net: bigint) => sales.set(code, (sales.get(code) ?? 0n) + net);
  const sumsOf = (tax: number | undefined) => {
    const sums = new Map<string, bigint>();
    lines.forEach((line, i) => {
      if (line.tax !== tax) return;
      const code = line.account ?? account;
      sums.set(code, (sums.get(code) ?? 0n) + (correction.lines[i] ?? 0n));
    });
    return [...sums].filter(([, sum]) => sum !== 0n);
  };
  taxes.forEach((_, place) => {
    const net = correction.taxes[place]?.net ?? 0n;
    const parts = sumsOf(place);
    const whole = parts.reduce((sum, [, part]) => sum + part, 0n);
    let left = net;
    parts.forEach(([code, part], i) => {
      const share = i === parts.length - 1 || whole === 0n ? left : (net * part) / whole;
      left -= share;
      add(code, share);
    });
    if (parts.length === 0) add(account, net);
  });
  for (const [code, part] of sumsOf(undefined)) add(code, part);
  return [...sales].map(([code, net]) => ({ code, net }));
}

async function tell(
  almanac: Almanac,
  of: {
    readonly subscription: Subscription;
    readonly done: CorrectionEffect;
    readonly reason: string;
    readonly today: string;
  },
  within: Transaction,
): Promise<void> {
  const { subscription, done, reason, today } = of;
  const said = (amount: string) => money(BigInt(amount), done.currency);
  const next = [
    ...(done.setOff === '0' ? [] : [sentence('not to be paid', { amount: said(done.setOff) })]),
    ...(done.toCredit === '0' ? [] : [sentence('your credit', { amount: said(done.toCredit) })]),
  ];
  await writeAbout(
    almanac,
    subscription,
    {
      ...{ event: 'credit note', onceKey: `credit note:${done.id}`, reason: `Credit note ${done.number}` },
      creditNoteId: done.id,
      says: {
        ...{ invoice: done.invoice, amount: said(done.total), words: done.number ?? '' },
        ...{ reason, next: { all: next, joined: ' ' } },
      },
    },
    today,
    within,
  );
}
