import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';
import { FORESEEN_COLUMNS } from '../forecast/foresight.sql.ts';

const COLUMNS = {
  reference: 'text',
  customer_id: 'bigint',
  rate_id: 'bigint',
  rate_version: 'int',
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
  issue_before: 'int',
  without_method: 'text',
  own_method_id: 'bigint',
  served_at: 'jsonb',
  line_sources: 'jsonb',
  ...FORESEEN_COLUMNS,
} as const;

/** A subscription as it begins. */
export type NewSubscription = Readonly<
  Record<keyof typeof COLUMNS, string | number | bigint | null> & {
    readonly reference: string;
    readonly terms: string;
  }
>;

/** Writes down subscriptions that begin, and gives their ids in the same order. */
export async function insertSubscriptions(
  { db }: Almanac,
  rows: readonly NewSubscription[],
  within: Transaction,
): Promise<string[]> {
  if (rows.length === 0) return [];
  // Many have the very same terms: those are handed over once.
  const places = new Map<string, number>();
  const { table, bound } = unnested(
    { ...COLUMNS, terms_place: 'int' },
    rows.map(({ terms, ...row }) => {
      const terms_place = places.get(terms) ?? places.size + 1;
      places.set(terms, terms_place);
      return { ...row, terms_place };
    }),
  );
  const agreed = unnested(
    { terms: 'jsonb' },
    [...places.keys()].map((terms) => ({ terms })),
    'agreed',
  );
  const names = Object.keys(COLUMNS).join(', ');
  const written = await db.rows<{ id: string; reference: string }>(
    `insert into subscriptions (terms, ${names}, state)
     select agreed.terms, ${names}, 'scheduled' from ${table} join ${agreed.table} on agreed.place = x.terms_place
     order by x.place returning id::text, reference`,
    { ...bound, ...agreed.bound },
    within,
  );
  const ids = new Map(written.map(({ id, reference }) => [reference, id]));
  return rows.map(({ reference }) => ids.get(reference) ?? '');
}
