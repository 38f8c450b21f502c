import type { Almanac } from '../almanac.ts';

/** What an account of the books is for. */
export type AccountKind =
  'receivable' | 'clearing' | 'bank' | 'cash' | 'sales' | 'tax' | 'credit' | 'written off';

/** An account as who posts names it: its kind, and its code where a rate or tax names one of its own. */
export interface AccountKey {
  readonly kind: AccountKind;
  readonly code?: string;
}

const known = new WeakMap<object, Map<string, number>>();
const nameOf = ({ kind, code = '' }: AccountKey) => `${kind}:${code}`;

/**
 * The numbers of accounts, by kind and code; one that is named for the first time is opened under its code. Accounts are
 * never taken away, so that a number once read holds.
 */
export async function accountIds(
  almanac: Pick<Almanac, 'db'>,
  keys: readonly AccountKey[],
): Promise<(key: AccountKey) => number> {
  const ids = known.get(almanac.db) ?? new Map<string, number>();
  known.set(almanac.db, ids);
  const missing = [
    ...new Map(keys.filter((key) => !ids.has(nameOf(key))).map((key) => [nameOf(key), key])).values(),
  ];
  if (missing.length > 0) {
    // Outside of the caller's transaction: an account stays opened, whatever becomes of what is posted.
    const kinds = missing.map(({ kind }) => kind);
    const codes = missing.map(({ code = '' }) => code);
    const bound = { kinds, codes };
    await almanac.db.rows(
      `insert into accounts (kind, code, name) select kind, code, code from unnest($kinds::text[], $codes::text[]) as k (kind, code)
       on conflict do nothing`,
      bound,
    );
    const rows = await almanac.db.rows<{ kind: AccountKind; code: string; id: number }>(
      `select a.kind, a.code, a.id from accounts a join unnest($kinds::text[], $codes::text[]) as k (kind, code) using (kind, code)`,
      bound,
    );
    for (const { id, ...key } of rows) ids.set(nameOf(key), id);
  }
  return (key) => {
    const id = ids.get(nameOf(key));
    if (id === undefined) throw new Error(`There is no account ${nameOf(key)}.`);
    return id;
  };
}
