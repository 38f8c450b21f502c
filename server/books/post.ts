import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { Bound } from '../db/database.ts';
import { unnested } from '../db/unnested.ts';
import { accountIds, type AccountKey } from './accounts.ts';

/** One side of an entry, in minor units: debits are above zero, credits below. */
export interface EntryLine {
  readonly account: AccountKey;
  readonly amount: bigint;
}

/** An entry of the journal. Its lines sum to zero; the database refuses one that does not balance. */
export interface Entry {
  readonly event:
    | 'invoice issued'
    | 'credit used'
    | 'collected'
    | 'over-paid'
    | 'credit note'
    | 'written off'
    | 'write-off taken back'
    | 'paid out'
    | 'pay-out failed';
  /** The business date that it belongs to. */
  readonly postedOn: string;
  readonly currency: string;
  readonly invoiceId?: string | null;
  readonly paymentId?: string;
  readonly creditNoteId?: string;
  readonly refundId?: string;
  readonly takingId?: string;
  readonly lines: readonly EntryLine[];
}

/** The columns of the journal that an entry of invoices and payments is posted in, in the order of {@link Posting.table}. */
export const JOURNAL = 'posted_on, event, currency, invoice_id, payment_id, accounts, amounts';

/** What else an entry may be about. */
const ALSO_ABOUT = 'credit_note_id, refund_id, taking_id';

/** Entries as a table `entry` that a statement posts together with what they tell of. */
export interface Posting {
  readonly table: string;
  readonly bound: Readonly<Record<string, Bound>>;
  readonly count: number;
}

/**
 * Makes entries ready to be posted by the statement that writes what they tell of. Where that has no number yet, an entry
 * says its place among what is written with it, and the statement puts the number there. Lines of no amount are left out,
 * and entries that have none left.
 */
export async function readyToPost(almanac: Almanac, entries: readonly Entry[]): Promise<Posting> {
  const posted = entries
    .map((entry) => ({ ...entry, lines: entry.lines.filter(({ amount }) => amount !== 0n) }))
    .filter(({ lines }) => lines.length > 0);
  const idOf = await accountIds(
    almanac,
    posted.flatMap(({ lines }) => lines.map(({ account }) => account)),
  );
  const { table, bound } = unnested(
    {
      posted_on: 'date',
      event: 'text',
      currency: 'text',
      invoice_id: 'bigint',
      payment_id: 'bigint',
      accounts: 'text',
      amounts: 'text',
      credit_note_id: 'bigint',
      refund_id: 'bigint',
      taking_id: 'bigint',
    },
    posted.map(({ event, postedOn, currency, invoiceId, paymentId, lines, ...about }) => ({
      posted_on: postedOn,
      event,
      currency,
      invoice_id: invoiceId ?? null,
      payment_id: paymentId ?? null,
      accounts: `{${lines.map(({ account }) => idOf(account)).join(',')}}`,
      amounts: `{${lines.map(({ amount }) => amount).join(',')}}`,
      credit_note_id: about.creditNoteId ?? null,
      refund_id: about.refundId ?? null,
      taking_id: about.takingId ?? null,
    })),
    'entry',
  );
  return { table, bound, count: posted.length };
}

/** Posts entries to the journal, in the transaction of what they tell of. What is posted is never changed. */
export async function post(almanac: Almanac, entries: readonly Entry[], within: Transaction): Promise<void> {
  const { table, bound, count } = await readyToPost(almanac, entries);
  if (count === 0) return;
  await almanac.db.rows(
    `insert into journal (${JOURNAL}, ${ALSO_ABOUT})
     select posted_on, event, currency, invoice_id, payment_id, accounts::int[], amounts::bigint[], ${ALSO_ABOUT}
     from ${table} order by place`,
    bound,
    within,
  );
}
