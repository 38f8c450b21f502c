import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';

const COLUMNS = {
  reference: 'text',
  customer_id: 'bigint',
  rate_id: 'bigint',
  rate_version: 'int',
  terms: 'jsonb',
  starts_on: 'date',
  trial_ends_on: 'date',
  ends_on: 'date',
  wake_on: 'date',
  enrolled_on: 'date',
  tax_id: 'bigint',
  works_by: 'text',
  shift: 'text',
  invoice_fields: 'jsonb',
  variant_id: 'bigint',
  rate_card_id: 'bigint',
  extras: 'jsonb',
  answers: 'jsonb',
  collects: 'text',
  invoicing: 'text',
  without_method: 'text',
} as const;

/** A subscription as it begins. */
export type NewSubscription = Readonly<
  Record<keyof typeof COLUMNS, string | number | null> & { readonly reference: string }
>;

/** Writes down subscriptions that begin, and gives their ids in the same order. */
export async function insertSubscriptions(
  { db }: Almanac,
  rows: readonly NewSubscription[],
  within: Transaction,
): Promise<string[]> {
  if (rows.length === 0) return [];
  const { table, bound } = unnested(COLUMNS, rows);
  const names = Object.keys(COLUMNS).join(', ');
  const written = await db.rows<{ id: string; reference: string }>(
    `insert into subscriptions (${names}, state) select ${names}, 'scheduled' from ${table} order by place
     returning id::text, reference`,
    bound,
    within,
  );
  const ids = new Map(written.map(({ id, reference }) => [reference, id]));
  return rows.map(({ reference }) => ids.get(reference) ?? '');
}
