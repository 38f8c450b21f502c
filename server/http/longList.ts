import type { Bound, Database } from '../db/database.ts';
import { RefusedCommand } from './problem.ts';
import { PAGE_SIZE, type ListQuery, type Page } from './list.ts';
import { CUSTOMER_MATCHES, type Search } from './search.ts';

/** So many rows of what is searched or filtered are counted; whoever comes to more than that narrows the question. */
export const MOST_COUNTED = 10_000;
/** A whole list is counted so far; of one that is longer still, as many rows are come to from each end of an order. */
const MOST_OF_ALL = 200_000;

/** So many rows are looked at one by one for what is sought, where nearly all may be it. */
const MOST_LOOKED_AT = 20_000;

/** Of a search that finds more than are found by indexes, so many are come to; */
const MOST_SOUGHT = 2_000;
/** and so many customers, or subscriptions, are found by indexes before it is such a one. */
const MOST_FOUND = 5_000;

/** Past so many rows of a whole list, sorting all of it costs less than going along it. */
const MOST_GONE_ALONG = 5_000;

type Direction = 'asc' | 'desc';

/** An order of a list: what is ordered by, one after the other, and what has to be joined for that. */
export interface Order {
  readonly by: readonly string[];
  /** Some rows have no value: they come last, whichever way round. Only where it is ordered by one thing. */
  readonly mayLack?: true;
  readonly joins?: string;
  /** A way along all rows of the list in this order, by indexes: what stands in place of `from`, under the same alias. */
  readonly along?: (direction: Direction) => string;
  /** The same along some customers alone, which stand in place of all. */
  readonly alongCustomers?: (direction: Direction, customers: string) => string;
}

/**
 * A list that may be very long. Its ids are found first, by conditions and an order that indexes serve; what is shown is
 * read for those of one page alone.
 */
export interface LongList {
  /** The table of its rows with an alias: 'subscriptions s'. */
  readonly from: string;
  readonly alias: string;
  /** The conditions that were asked for, and no others. */
  readonly where: readonly string[];
  /** Gives the wide rows of `$ids`, with an `id` each, in any order. */
  readonly shown: string;
  readonly bound: Readonly<Record<string, Bound>>;
  /** The orders that may be asked for, the first by default. */
  readonly orders: Readonly<Record<string, Order>>;
  /** What is looked for, beside the conditions. */
  readonly search?: Search | undefined;
  /** So many of what is searched or filtered are counted, where that is not {@link MOST_COUNTED}. */
  readonly mostCounted?: number;
  /** So many are looked at one by one, or found by indexes, where that is not {@link MOST_LOOKED_AT}, {@link MOST_FOUND}. */
  readonly mostLookedAt?: number;
  readonly mostFound?: number;
}

/**
 * One page of a long list. Rows are counted up to a bound ({@link MOST_COUNTED}, without any condition far more), and `more`
 * says where there are others. A page that lies nearer to a known end is come to from there.
 */
export async function readLongPage<Row extends { readonly id: string }>(
  db: Database,
  list: LongList,
  query: Pick<ListQuery, 'sort' | 'page'>,
): Promise<Page<Row>> {
  const most = list.where.length === 0 && !list.search ? MOST_OF_ALL : (list.mostCounted ?? MOST_COUNTED);
  const sought: Sought = list.search
    ? await seek(db, list, list.search, query.sort, most)
    : { n: await countUpTo(db, list, most), list };
  const more = sought.more ?? sought.n > most;
  const total = more ? Math.min(sought.n, sought.most ?? list.mostCounted ?? MOST_COUNTED) : sought.n;
  const pages = Math.max(1, Math.ceil(total / PAGE_SIZE));
  const page = Math.min(query.page, pages);
  const slice = sliceOf(total, page, !more);
  const ids =
    page === 1 && sought.first
      ? sought.first
      : ((sought.looksFrom && (await idsLookedFor(db, sought.looksFrom, query.sort, slice))) ??
        (await idsOf(db, sought.list, query.sort, slice, more)));
  return { rows: await rowsOf<Row>(db, list, ids), total, more, page, pages };
}

/** What is known of a list once it was looked for something: how many there are, and how its pages are come to. */
interface Sought {
  /** As many as are counted at most, and one more where there are others. */
  readonly n: number;
  /** There are others than were counted. */
  readonly more?: boolean;
  /** So many of them are come to. */
  readonly most?: number;
  /** The list, with what is sought among its conditions. */
  readonly list: Found;
  /** The first page, where it came with the count. */
  readonly first?: readonly string[];
  /** So much matches that a page may be met by looking at rows one by one, in order. */
  readonly looksFrom?: LongList & { readonly search: Search; readonly ofCustomersAlone: boolean };
}

/** A list with the common table expressions that its conditions speak of. */
interface Found extends LongList {
  readonly given?: string;
  /** All that was found is customers, so that an order by them may go along these: the conditions beside that. */
  readonly besideFound?: readonly string[];
}

/**
 * Looks for something: by indexes where they find little, which is most of the work, so that the first page and its count
 * come of one statement. Where they find much, rows are looked at one by one, as far as that goes.
 */
async function seek(
  db: Database,
  list: LongList,
  search: Search,
  sort: string,
  most: number,
): Promise<Sought> {
  const { mostFound = MOST_FOUND } = list;
  // Twice as many where a filter may take some of them away.
  const limit = list.where.length === 0 ? mostFound : 2 * mostFound;
  const few: Found = {
    ...{ ...list, search: undefined, given: `with ${search.found(limit)}` },
    where: [...list.where, `${search.column} = any(array(${search.ids}))`],
  };
  const { n, cut, alone, ids } = await soughtOnce(db, few, sort, most, search, limit);
  const looksFrom = { ...list, search, ofCustomersAlone: alone };
  if (!cut && n <= most) return { n, list: few, first: ids };
  if (!cut) return { n, list: few, looksFrom };
  const all: Found = {
    ...{ ...few, given: `with ${search.found(null)}`, ...(alone ? { besideFound: list.where } : {}) },
    // Not as an array: each row would be held against all of it.
    where: [...list.where, `${search.column} in (${search.ids})`],
  };
  const sought = Math.min(most, MOST_SOUGHT);
  if (n > sought) return { n, more: true, most: sought, list: all, looksFrom };
  const looked = await countByLooking(db, list, search, most);
  if (looked.n > sought) return { n: looked.n, more: true, most: sought, list: all, looksFrom };
  if (looked.isAll) return { n: looked.n, list: lookedAt(list, search) };
  return { n: await countUpTo(db, all, most), list: all, looksFrom };
}

/** The list with what is sought seen row by row, among the first of those that the conditions give. */
function lookedAt(list: LongList, { matches }: Search): Found {
  const { from, alias, where, mostLookedAt = MOST_LOOKED_AT } = list;
  return {
    ...{ ...list, search: undefined, where: [matches] },
    from: `(select ${alias}.* from ${from} ${whereOf(where)} limit ${mostLookedAt + 1}) ${alias}`,
  };
}

/** How many are sought of the first rows that meet the conditions, and whether those are all. */
async function countByLooking(db: Database, list: LongList, search: Search, most: number) {
  const { from, where, mostLookedAt = MOST_LOOKED_AT } = list;
  const n = await countUpTo(db, lookedAt(list, search), most);
  const isAll = n <= most && (await countUpTo(db, { ...list, from, where }, mostLookedAt)) <= mostLookedAt;
  return { n, isAll };
}

/**
 * A page of ids by looking for what is sought among the first rows of an order; null where there is no going along it, or so
 * many are not met there.
 */
async function idsLookedFor(
  db: Database,
  list: NonNullable<Sought['looksFrom']>,
  sort: string,
  slice: Slice,
): Promise<string[] | null> {
  const { search, where, bound, mostLookedAt = MOST_LOOKED_AT } = list;
  const order = orderOf(list, sort, slice.fromEnd);
  if (slice.fromEnd || (order.along === undefined && order.joins !== undefined)) return null;
  const [part = []] = partsOf(order, false);
  const { alongCustomers } = order;
  const statement =
    alongCustomers && list.ofCustomersAlone
      ? alongOrder(list, { ...order, along: (to) => alongCustomers(to, matchingOf(to, mostLookedAt)) }, part)
      : alongOrder({ ...list, where: [...where, search.matches] }, order, part, mostLookedAt);
  const found = await db.rows<{ id: string }>(statement, {
    ...bound,
    ...{ limit: slice.limit, offset: slice.offset },
  });
  return found.length < slice.limit ? null : found.map(({ id }) => id);
}

/** So many rows of a long list are read at once where all of them are. */
const AT_ONCE = 500;
/** More rows stand in no file: spreadsheets take no more either. */
const MOST_IN_FILE = 1_000_000;

/**
 * All rows of a long list in its order, some at a time. Which they are is found first; one that has gone meanwhile is left out.
 * @throws RefusedCommand where they are too many for a file
 */
export async function* readAll<Row extends { readonly id: string }>(
  db: Database,
  list: LongList,
  query: Pick<ListQuery, 'sort'>,
): AsyncGenerator<Row[], void> {
  const { from, alias, bound, search } = list;
  const where = [...list.where, ...(search ? [`${search.column} in (${search.ids})`] : [])];
  const order = orderOf(list, query.sort, false);
  const by = [...order.by, `${alias}.id`].map((one) => `${one} ${order.direction} nulls last`).join(', ');
  const found = await db.row<{ ids: string }>(
    `${search ? `with ${search.found(null)}` : ''}
     select array_to_string(array(select ${alias}.id from ${from} ${order.joins ?? ''} ${whereOf(where)}
       order by ${by} limit ${MOST_IN_FILE + 1}), ',') as ids`,
    bound,
  );
  const ids = found?.ids ? found.ids.split(',') : [];
  if (ids.length > MOST_IN_FILE)
    throw new RefusedCommand(422, 'These are more than a million rows: choose a filter, or search.');
  for (let at = 0; at < ids.length; at += AT_ONCE) yield rowsOf<Row>(db, list, ids.slice(at, at + AT_ONCE));
}

/** What is shown of rows, in the order of their numbers here. */
async function rowsOf<Row extends { readonly id: string }>(
  db: Database,
  { shown, bound }: LongList,
  ids: readonly string[],
): Promise<Row[]> {
  const rows = ids.length === 0 ? [] : await db.rows<Row>(shown, { ...bound, ids });
  const byId = new Map(rows.map((row) => [row.id, row]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

async function countUpTo(
  db: Database,
  { given = '', from, where, bound }: Found,
  most: number,
): Promise<number> {
  const counted = await db.row<{ n: number }>(
    `${given} select count(*)::int as n from (select 1 from ${from} ${whereOf(where)} limit ${most + 1}) as counted`,
    bound,
  );
  return counted?.n ?? 0;
}

/** Of so many customers in their order, those who are sought. */
const matchingOf = (direction: Direction, most: number) =>
  `(select * from customers order by name ${direction}, id ${direction} limit ${most}) c where ${CUSTOMER_MATCHES}`;

/** How many are found, whether there are others, and the first page of them, in one statement. */
async function soughtOnce(
  db: Database,
  list: Found,
  sort: string,
  most: number,
  search: Search,
  limit: number,
) {
  const { given = '', from, alias, where, bound } = list;
  const { by, joins = '', direction } = orderOf(list, sort, false);
  const inOrder = [...by.map((_, i) => `by_${i} ${direction} nulls last`), `id ${direction}`].join(', ');
  const row = await db.row<{ n: number; cut: boolean; alone: boolean; ids: string }>(
    `${given}, sought as materialized (
       select ${[`${alias}.id`, ...by.map((one, i) => `${one} as by_${i}`)].join(', ')}
       from ${from} ${joins} ${whereOf(where)} limit ${most + 1})
     select (select count(*)::int from sought) as n, ${search.isCut(limit)} as cut, ${search.ofCustomersAlone} as alone,
       array_to_string(array(select id from sought order by ${inOrder} limit ${PAGE_SIZE}), ',') as ids`,
    bound,
  );
  return {
    n: row?.n ?? 0,
    cut: row?.cut ?? false,
    alone: row?.alone ?? false,
    ids: row?.ids ? row.ids.split(',') : [],
  };
}

type Slice = ReturnType<typeof sliceOf>;

/** The ids of a page, in the order of the list. */
async function idsOf(
  db: Database,
  list: Found,
  sort: string,
  slice: Slice,
  more: boolean,
): Promise<string[]> {
  const { given = '', from, where, bound } = list;
  const order = orderOf(list, sort, slice.fromEnd);
  const { along, alongCustomers, joins } = order;
  // Where so many are found, some stand near the beginning of any order: it is gone along until there are enough of them.
  const goesAlong =
    given !== ''
      ? false
      : where.length === 0
        ? along !== undefined && slice.offset < MOST_GONE_ALONG
        : more && (along !== undefined || joins === undefined);
  const parts = partsOf(order, slice.fromEnd).map((part) => ({
    ids:
      list.besideFound && alongCustomers
        ? alongOrder(
            { ...list, where: list.besideFound },
            {
              ...order,
              along: (to) => alongCustomers(to, 'customers where id in (select id from customers_found)'),
            },
            part,
          )
        : goesAlong
          ? alongOrder(list, order, part)
          : sorted(list, order, part),
    given,
    from: `from ${from} ${whereOf([...where, ...part])}`,
  }));
  const ids = await idsInParts(db, parts, slice, bound);
  return slice.fromEnd ? ids.toReversed() : ids;
}

/** From which end a page is come to, and past how many rows. */
function sliceOf(total: number, page: number, endIsKnown: boolean) {
  const offset = (page - 1) * PAGE_SIZE;
  const limit = Math.max(0, Math.min(PAGE_SIZE, total - offset));
  const fromEnd = endIsKnown && offset > total / 2;
  return { limit, fromEnd, offset: fromEnd ? total - offset - limit : offset };
}

interface WrittenOrder extends Order {
  readonly direction: Direction;
}

function orderOf({ alias, orders }: LongList, sort: string, fromEnd: boolean): WrittenOrder {
  const backwards = sort.startsWith('-');
  const name = backwards ? sort.slice(1) : sort;
  const isKnown = Object.hasOwn(orders, name);
  const order = (isKnown ? orders[name] : Object.values(orders)[0]) ?? { by: [`${alias}.id`] };
  return { ...order, direction: (backwards && isKnown) !== fromEnd ? 'desc' : 'asc' };
}

const whereOf = (conditions: readonly string[]) =>
  conditions.length === 0 ? '' : `where ${conditions.map((one) => `(${one})`).join(' and ')}`;

/** The conditions of the parts that a list has in an order: rows without a value are gone to after all others. */
function partsOf({ by, mayLack }: Order, fromEnd: boolean): string[][] {
  if (!mayLack) return [[]];
  const parts = [[`${by[0]} is not null`], [`${by[0]} is null`]];
  return fromEnd ? parts.toReversed() : parts;
}

function orderBy(alias: string, { by, direction }: WrittenOrder): string {
  return `order by ${[...by, `${alias}.id`].map((one) => `${one} ${direction}`).join(', ')}`;
}

/** Finds what is asked for, and sorts it, by an index where one serves both. */
function sorted(
  { given = '', from, alias, where }: Found,
  order: WrittenOrder,
  part: readonly string[],
): string {
  return `${given} select ${alias}.id::text as id from ${from} ${order.joins ?? ''} ${whereOf([...where, ...part])}
    ${orderBy(alias, order)} limit $limit offset $offset`;
}

/**
 * The same, by going along the order, which indexes serve, and looking at each row: the fences (offset 0, limit) keep it so.
 * @param most so many rows of it are looked at, or all that it takes
 */
function alongOrder(
  { given = '', from, alias, where }: Found,
  order: WrittenOrder,
  part: readonly string[],
  most: number | null = null,
): string {
  const fence = most === null ? 'offset 0' : `limit ${most}`;
  const along = order.along?.(order.direction);
  const rows = along
    ? most === null
      ? along
      : `(select ${alias}.* from ${along} ${fence}) ${alias}`
    : `(select ${alias}.* from ${from} ${whereOf(part)} ${orderBy(alias, order)} ${fence}) ${alias}`;
  return `${given} select ${alias}.id::text as id from ${rows} ${whereOf(where)} limit $limit offset $offset`;
}

/** A page of ids that may lie in several parts, one after the other: a later one is asked only where it reaches there. */
async function idsInParts(
  db: Database,
  parts: readonly { readonly ids: string; readonly given: string; readonly from: string }[],
  { limit, offset }: Slice,
  bound: LongList['bound'],
): Promise<string[]> {
  const found: string[] = [];
  let skip = offset;
  for (const { ids, given, from } of parts) {
    const some = await db.rows<{ id: string }>(ids, { ...bound, limit: limit - found.length, offset: skip });
    found.push(...some.map(({ id }) => id));
    if (found.length >= limit) break;
    if (some.length > 0) skip = 0;
    else if (skip > 0)
      skip -= (await db.row<{ n: number }>(`${given} select count(*)::int as n ${from}`, bound))?.n ?? 0;
  }
  return found;
}

/** By the names of customers, along whom all rows are come to that are theirs. */
export function byCustomer(table: string, alias: string): Order {
  const along = (direction: Direction, customers = 'customers') => `
    (select id from ${customers} order by name ${direction}, id ${direction} offset 0) c
    cross join lateral (select x.* from ${table} x where x.customer_id = c.id order by x.id ${direction} offset 0) ${alias}`;
  return {
    by: ['c.name', 'c.id'],
    joins: `join customers c on c.id = ${alias}.customer_id`,
    along,
    alongCustomers: along,
  };
}
