import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';

type Keyed =
  | { readonly table: 'plans' | 'rate_cards' }
  | { readonly table: 'rates' | 'variants'; readonly planId: string };

/** A key for files that is not taken: the stem, or the stem with a number. */
export async function freeKey(
  almanac: Almanac,
  keyed: Keyed,
  stem: string,
  within: Transaction,
): Promise<string> {
  const of = 'planId' in keyed ? 'plan_id::text = $planId' : `$planId = ''`;
  const rows = await almanac.db.rows<{ key: string }>(
    `select key from ${keyed.table} where key like $like and ${of}`,
    { like: `${stem}%`, planId: 'planId' in keyed ? keyed.planId : '' },
    within,
  );
  const taken = new Set(rows.map(({ key }) => key));
  let key = stem;
  for (let n = 2; taken.has(key); n += 1) key = `${stem}-${n}`;
  return key;
}

/** A key for files, from a name: small letters, digits and hyphens. */
export function keyOf(name: string): string {
  const key = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 50);
  return key || 'plan';
}
