import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';
import { accountIds, type AccountKey } from './accounts.ts';

/** One side of an entry, in minor units: debits are above zero, credits below. */
export interface EntryLine {
  readonly account: AccountKey;
  readonly amount: bigint;
}

/** An entry of the journal. Its lines sum to zero; the database refuses one that does not balance. */
export interface Entry {
  readonly event: 'invoice issued' | 'collected' | 'written off';
  /** The business date that it belongs to. */
  readonly postedOn: string;
  readonly currency: string;
  readonly invoiceId: string;
  readonly paymentId?: string;
  readonly lines: readonly EntryLine[];
}

/**
 * Posts entries to the journal, in the transaction of what they tell of. What is posted is never changed. Lines of no
 * amount are left out, and entries that have none left.
 */
export async function post(almanac: Almanac, entries: readonly Entry[], within: Transaction): Promise<void> {
  const posted = entries
    .map((entry) => ({ ...entry, lines: entry.lines.filter(({ amount }) => amount !== 0n) }))
    .filter(({ lines }) => lines.length > 0);
  if (posted.length === 0) return;
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
    },
    posted.map(({ event, postedOn, currency, invoiceId, paymentId, lines }) => ({
      posted_on: postedOn,
      event,
      currency,
      invoice_id: invoiceId,
      payment_id: paymentId ?? null,
      accounts: `{${lines.map(({ account }) => idOf(account)).join(',')}}`,
      amounts: `{${lines.map(({ amount }) => amount).join(',')}}`,
    })),
  );
  await almanac.db.rows(
    `insert into journal (posted_on, event, currency, invoice_id, payment_id, accounts, amounts)
     select posted_on, event, currency, invoice_id, payment_id, accounts::int[], amounts::bigint[] from ${table} order by place`,
    bound,
    within,
  );
}
