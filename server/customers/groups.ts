import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';

/** The id of a group of customers, which is made where there is none of the name; null for an empty name. */
export async function groupNamed(
  almanac: Almanac,
  name: string,
  within: Transaction,
): Promise<string | null> {
  if (name === '') return null;
  // One that is there is not locked: whoever adds many people to it holds nobody else up.
  const there = await almanac.db.row<{ id: string }>(
    'select id::text from customer_groups where lower(name) = lower($name)',
    { name },
    within,
  );
  if (there) return there.id;
  const known = await almanac.db.row<{ id: string }>(
    `insert into customer_groups (name) values ($name)
     on conflict (lower(name)) do update set name = customer_groups.name returning id::text`,
    { name },
    within,
  );
  return known?.id ?? null;
}

/** The groups there are and how many customers are in each. */
export function listGroups(almanac: Almanac): Promise<{ name: string; customers: number }[]> {
  return almanac.db.rows(
    `select g.name, count(c.id)::int as customers from customer_groups g left join customers c on c.group_id = g.id
     group by g.id order by g.name`,
  );
}
