import { z } from 'zod';
import type { Bound, Database } from '../db/database.ts';

export const PAGE_SIZE = 40;

/** What every list can be asked: words to look for, a state, an order and a page. */
export const listQuery = z.object({
  search: z.string().trim().max(100).default(''),
  state: z.string().max(40).default(''),
  /** Of lists whose rows are of several kinds. */
  kind: z.string().max(40).default(''),
  /** Which date rows are asked for by, and the days, both inclusive; an empty end is open. */
  dated: z.string().max(40).default(''),
  from: z.iso.date().or(z.literal('')).default(''),
  until: z.iso.date().or(z.literal('')).default(''),
  sort: z.string().max(40).default(''),
  page: z.coerce.number().int().min(1).max(100_000).default(1),
});
export type ListQuery = z.infer<typeof listQuery> & {
  /** So many rows a page, where that is not {@link PAGE_SIZE}: for files, never for a screen. */
  readonly size?: number;
};

export interface Page<Row> {
  readonly rows: Row[];
  readonly total: number;
  /** There are more than the total says: they are not counted further. */
  readonly more?: boolean;
  readonly page: number;
  readonly pages: number;
}

/** A list in SQL: `select` gives the rows, `sorts` the orders that may be asked for, the first by default. */
export interface ListStatement {
  readonly select: string;
  readonly bound: Readonly<Record<string, Bound>>;
  readonly sorts: Readonly<Record<string, string>>;
}

/**
 * One page of a list. `sort` is the name of one of its orders, with a minus sign before it for the other way
 * round; any other is passed over.
 */
export async function readPage<Row extends object>(
  db: Database,
  list: ListStatement,
  query: ListQuery,
): Promise<Page<Row>> {
  const backwards = query.sort.startsWith('-');
  const name = backwards ? query.sort.slice(1) : query.sort;
  const isKnown = Object.hasOwn(list.sorts, name);
  const order = (isKnown ? list.sorts[name] : Object.values(list.sorts)[0]) ?? 'id';
  const direction = backwards && isKnown ? 'desc' : 'asc';
  const counted = await db.row<{ total: number }>(
    `select count(*)::int as total from (${list.select}) as listed`,
    list.bound,
  );
  const total = counted?.total ?? 0;
  const size = query.size ?? PAGE_SIZE;
  const pages = Math.max(1, Math.ceil(total / size));
  const page = Math.min(query.page, pages);
  const rows = await db.rows<Row>(
    `select * from (${list.select}) as listed order by ${order} ${direction} nulls last, id ${direction}
     limit ${size} offset ${(page - 1) * size}`,
    list.bound,
  );
  return { rows, total, page, pages };
}

/** A text as the pattern for `like` that it alone matches. */
export const likeItself = (text: string) => text.replace(/[\\%_]/g, (sign) => `\\${sign}`);

/** A search text as a pattern for `ilike`: its own wildcards are taken as they are written. */
export function likePattern(search: string): string {
  return `%${likeItself(search)}%`;
}

/** The same of one customer. */
export const ofCustomer = listQuery.extend({
  customerId: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional(),
});
