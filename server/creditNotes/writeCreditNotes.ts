import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { creditNoteIssued, type SalesOf } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { moveCredit } from '../customers/credit.ts';
import { unnested } from '../db/unnested.ts';
import type { CreditNoteKind } from './kinds.ts';

/** A credit note that only lacks its number; amounts in minor units, above zero. */
export interface CreditNoteToWrite {
  readonly kind: CreditNoteKind;
  readonly customerId: string;
  readonly subscriptionId: string;
  /** The invoice that it corrects; null where it settles a change. */
  readonly invoiceId: string | null;
  /** Of a settlement, the kind of payment that it is by the terms. */
  readonly settles: string | null;
  readonly periodFrom: string;
  readonly periodTo: string;
  readonly currency: string;
  /** As JSON, like those of invoices, above zero. */
  readonly lines: string;
  readonly taxes: string;
  readonly net: bigint;
  readonly tax: bigint;
  readonly total: bigint;
  /** What of it the invoice still lacks; the rest is the customer's credit. */
  readonly setOff: bigint;
  readonly reason: string;
  /** The hash of the parties that it is between, kept before. */
  readonly parties: string;
  readonly fields: string;
  readonly account: string;
  readonly lawTax: string | null;
  readonly sales: SalesOf;
  readonly issuedBy: string;
}

/** A credit note as it was issued. */
export interface WrittenCreditNote {
  readonly id: string;
  /** With the prefix of its series. */
  readonly number: string;
  readonly toCredit: bigint;
}

const DRAWN_UP = {
  kind: 'text',
  customer_id: 'bigint',
  subscription_id: 'bigint',
  invoice_id: 'bigint',
  settles: 'text',
  period_from: 'date',
  period_to: 'date',
  issued_on: 'date',
  currency: 'text',
  lines: 'jsonb',
  taxes: 'jsonb',
  net: 'bigint',
  tax: 'bigint',
  total: 'bigint',
  set_off: 'bigint',
  to_credit: 'bigint',
  reason: 'text',
  fields: 'jsonb',
  account: 'text',
  law_tax: 'jsonb',
  issued_by: 'text',
} as const;

/**
 * Issues credit notes with their numbers, in a series of their own that has no gap: the one place where a credit note is
 * written. What its invoice still lacked is taken off it, the rest is the customer's credit, and both are in the books. The
 * invoices are locked by the caller.
 */
export async function writeCreditNotes(
  almanac: Almanac,
  notes: readonly CreditNoteToWrite[],
  on: string,
  within: Transaction,
): Promise<WrittenCreditNote[]> {
  if (notes.length === 0) return [];
  const { table, bound } = unnested(
    { ...DRAWN_UP, parties: 'text' },
    notes.map((note) => ({
      ...{ kind: note.kind, customer_id: note.customerId, subscription_id: note.subscriptionId },
      ...{ invoice_id: note.invoiceId, settles: note.settles, period_from: note.periodFrom },
      ...{ period_to: note.periodTo, currency: note.currency, lines: note.lines, taxes: note.taxes },
      ...{ net: note.net, tax: note.tax, total: note.total, set_off: note.setOff },
      ...{ to_credit: note.total - note.setOff, reason: note.reason, fields: note.fields },
      ...{ account: note.account, law_tax: note.lawTax, issued_by: note.issuedBy },
      ...{ issued_on: on, parties: note.parties },
    })),
  );
  const names = Object.keys(DRAWN_UP);
  const written = await almanac.db.rows<{ id: string; number: string }>(
    `with taken as (
       update business set next_credit_note_number = next_credit_note_number + $count
       returning next_credit_note_number - $count as first, credit_note_prefix as prefix),
     issued as (
       insert into credit_notes (number, prefix, ${names.join(', ')}, parties_id)
       select t.first + x.place - 1, t.prefix, ${names.map((name) => `x.${name}`).join(', ')}, p.id
       from taken t cross join ${table} join invoice_parties p on p.hash = decode(x.parties, 'hex') order by x.place
       returning id, number, prefix, invoice_id, kind, set_off),
     off as (
       update invoices i set credited = i.credited + n.set_off,
         state = case when n.kind = 'withdrawal' then 'withdrawn' when n.set_off < i.owed then i.state
           when i.collected = 0 and i.credit_used = 0 then 'withdrawn' else 'paid' end
       from issued n where i.id = n.invoice_id and (n.set_off > 0 or n.kind = 'withdrawal'))
     select id::text, prefix || number as number from issued n order by n.number`,
    { ...bound, count: notes.length },
    within,
  );
  if (written.length !== notes.length)
    throw new Error(`${written.length} of ${notes.length} credit notes were written.`);
  const issued = notes.map((note, i) => ({
    ...note,
    ...{ id: written[i]?.id ?? '', number: written[i]?.number ?? '', toCredit: note.total - note.setOff },
  }));
  await post(
    almanac,
    issued.map((note) => creditNoteIssued({ ...note, issuedOn: on })),
    within,
  );
  await moveCredit(
    almanac,
    issued
      .filter(({ toCredit }) => toCredit > 0n)
      .map(({ id, customerId, currency, toCredit, kind, invoiceId }) => ({
        ...{ customerId, currency, amount: toCredit, movedOn: on, invoiceId, creditNoteId: id },
        why: kind === 'settlement' ? ('settlement' as const) : ('credit note' as const),
      })),
    within,
  );
  return issued;
}
