import { createHash } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { InvoiceParties } from './invoiceParts.ts';

/** The parties of some documents: they are kept once for all documents on which they are the same, under what they say. */
export interface HashedParties {
  /** The hash of each, in the order given. */
  readonly of: readonly string[];
  /** What each hash stands for. */
  readonly says: ReadonlyMap<string, string>;
}

/** The hashes of parties, each computed once. */
export function hashedParties(parties: readonly InvoiceParties[]): HashedParties {
  const hashes = new Map<string, string>();
  const of = parties.map((one) => {
    const text = JSON.stringify(one);
    const hash = hashes.get(text) ?? createHash('sha256').update(text).digest('hex');
    hashes.set(text, hash);
    return hash;
  });
  return { of, says: new Map([...hashes].map(([text, hash]) => [hash, text])) };
}

/** Those parties that are not kept yet, by their hash. */
export async function unknownParties(
  { db }: Almanac,
  { says }: HashedParties,
  within: Transaction,
): Promise<Map<string, string>> {
  if (says.size === 0) return new Map();
  const known = await db.rows<{ hash: string }>(
    `select encode(hash, 'hex') as hash from invoice_parties
     where hash = any(array(select decode(h, 'hex') from unnest($hashes::text[]) h))`,
    { hashes: [...says.keys()] },
    within,
  );
  const kept = new Set(known.map(({ hash }) => hash));
  return new Map([...says].filter(([hash]) => !kept.has(hash)));
}

/** Keeps parties under their hashes. */
export async function keepParties(
  { db }: Almanac,
  parties: ReadonlyMap<string, string>,
  within: Transaction,
): Promise<void> {
  if (parties.size === 0) return;
  await db.rows(
    `insert into invoice_parties (hash, parties)
     select decode(hash, 'hex'), parties from unnest($hashes::text[], $parties::jsonb[]) as p (hash, parties)
     on conflict do nothing`,
    { hashes: [...parties.keys()], parties: [...parties.values()] },
    within,
  );
}
