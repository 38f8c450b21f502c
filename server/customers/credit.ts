import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { creditUsed } from '../books/entries.ts';
import { post } from '../books/post.ts';
import { unnested } from '../db/unnested.ts';

/*
 * A customer's credit has one home for all of their subscriptions: a balance for each currency, and the moves that it comes of.
 * Balances are locked after everything else, in the order of their customers.
 */

/** Why credit moved: what gave it, or what it went to. */
export type CreditWhy =
  'settlement' | 'credit note' | 'over-payment' | 'used' | 'paid out' | 'pay-out failed';

/** One move of a customer's credit, in minor units: above zero it was given, below it was used or paid out. */
export interface CreditMove {
  readonly customerId: string;
  readonly currency: string;
  readonly amount: bigint;
  readonly movedOn: string;
  readonly why: CreditWhy;
  readonly invoiceId?: string | null;
  readonly creditNoteId?: string;
  readonly takingId?: string;
  readonly refundId?: string;
}

/** Moves the credit of customers. Whoever takes from it has locked the balances; the database lets none be below zero. */
export async function moveCredit(
  { db }: Almanac,
  moves: readonly CreditMove[],
  within: Transaction,
): Promise<void> {
  if (moves.length === 0) return;
  const { table, bound } = unnested(
    {
      ...{ customer_id: 'bigint', currency: 'text', amount: 'bigint', moved_on: 'date', why: 'text' },
      ...{ invoice_id: 'bigint', credit_note_id: 'bigint', taking_id: 'bigint', refund_id: 'bigint' },
    },
    moves.map((move) => ({
      ...{ customer_id: move.customerId, currency: move.currency, amount: move.amount },
      ...{ moved_on: move.movedOn, why: move.why, invoice_id: move.invoiceId ?? null },
      ...{ credit_note_id: move.creditNoteId ?? null, taking_id: move.takingId ?? null },
      refund_id: move.refundId ?? null,
    })),
  );
  await db.rows(
    `insert into credit_balances (customer_id, currency, credit)
     select distinct customer_id, currency, 0 from ${table} order by 1, 2 on conflict do nothing`,
    bound,
    within,
  );
  const names =
    'customer_id, currency, amount, moved_on, why, invoice_id, credit_note_id, taking_id, refund_id';
  await db.rows(
    `with moved as (
       insert into credit_moves (${names}) select ${names} from ${table} order by place returning customer_id, currency, amount),
     summed as (select customer_id, currency, sum(amount) as amount from moved group by 1, 2)
     update credit_balances b set credit = b.credit + s.amount from summed s
     where b.customer_id = s.customer_id and b.currency = s.currency`,
    bound,
    within,
  );
}

/** An invoice that credit may pay for. */
interface Payable {
  readonly id: string;
  readonly customerId: string;
  readonly currency: string;
  /** Minor units. */
  readonly owed: bigint;
}

/** What credit customers have, locked until the transaction is over: by customer and currency, as `7 GBP`. */
export async function lockCredit(
  { db }: Almanac,
  customerIds: readonly string[],
  within: Transaction,
): Promise<Map<string, bigint>> {
  const rows = await db.rows<{ customerId: string; currency: string; credit: string }>(
    `select customer_id::text as "customerId", currency, credit::text from credit_balances
     where customer_id = any($customerIds::bigint[]) and credit > 0 order by credit_balances.customer_id, currency for update`,
    { customerIds: [...new Set(customerIds)] },
    within,
  );
  return new Map(
    rows.map(({ customerId, currency, credit }) => [`${customerId} ${currency}`, BigInt(credit)]),
  );
}

/**
 * Pays for invoices from the credit of their customers, as far as it goes, in the order given, each with its entry in the
 * books. The invoices are locked by the caller, or of the same transaction.
 * @returns what was used of it for each invoice, by its number, in minor units; nothing for most
 */
export async function useCredit(
  almanac: Almanac,
  invoices: readonly Payable[],
  on: string,
  within: Transaction,
): Promise<ReadonlyMap<string, bigint>> {
  const used = new Map<string, bigint>();
  if (invoices.length === 0) return used;
  const left = await lockCredit(
    almanac,
    invoices.map(({ customerId }) => customerId),
    within,
  );
  if (left.size === 0) return used;
  const paid = invoices.flatMap((invoice) => {
    const { id, customerId, currency, owed } = invoice;
    const atHand = left.get(`${customerId} ${currency}`) ?? 0n;
    const amount = atHand < owed ? atHand : owed;
    if (amount <= 0n) return [];
    left.set(`${customerId} ${currency}`, atHand - amount);
    used.set(id, amount);
    return [{ ...invoice, amount }];
  });
  const { table, bound } = unnested(
    { invoice_id: 'bigint', amount: 'bigint' },
    paid.map(({ id, amount }) => ({ invoice_id: id, amount })),
  );
  await almanac.db.rows(
    `update invoices i set credit_used = i.credit_used + x.amount,
       state = case when x.amount = i.owed then 'paid' else 'part-paid' end
     from ${table} where i.id = x.invoice_id`,
    bound,
    within,
  );
  await moveCredit(
    almanac,
    paid.map(({ id, customerId, currency, amount }) => ({
      ...{ customerId, currency, amount: -amount, movedOn: on, why: 'used' as const, invoiceId: id },
    })),
    within,
  );
  await post(
    almanac,
    paid.map(({ id, amount, currency }) => creditUsed({ invoiceId: id, amount, currency, on })),
    within,
  );
  return used;
}

/** A customer's credit at hand, in minor units of a currency. */
export async function creditAtHand(
  { db }: Almanac,
  { customerId, currency }: { readonly customerId: string; readonly currency: string },
  within?: Transaction,
): Promise<bigint> {
  const row = await db.row<{ credit: string }>(
    'select credit::text from credit_balances where customer_id = $customerId and currency = $currency',
    { customerId, currency },
    within,
  );
  return BigInt(row?.credit ?? 0);
}
