import type { Bound, Database } from '../db/database.ts';
import { RefusedCommand } from './problem.ts';
import { PAGE_SIZE, type ListQuery, type Page } from './list.ts';

/** So many rows of what is searched or filtered are counted; whoever comes to more than that narrows the question. */
export const MOST_COUNTED = 10_000;
/** A whole list is counted so far; of one that is longer still, as many rows are come to from each end of an order. */
const MOST_OF_ALL = 200_000;

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
  /** Something is looked for, which is most of the work: the first page and its count come of one search. */
  readonly searches?: boolean;
  /** So many of what is searched or filtered are counted, where that is not {@link MOST_COUNTED}. */
  readonly mostCounted?: number;
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
  const { where } = list;
  const most = where.length === 0 ? MOST_OF_ALL : (list.mostCounted ?? MOST_COUNTED);
  const searched = list.searches && query.page === 1 ? await searchedOnce(db, list, query.sort, most) : null;
  const n = searched?.n ?? (await countUpTo(db, list, most));
  const more = n > most;
  const total = more ? (list.mostCounted ?? MOST_COUNTED) : n;
  const pages = Math.max(1, Math.ceil(total / PAGE_SIZE));
  const page = Math.min(query.page, pages);
  const ids =
    searched && !more ? searched.ids : await idsOf(db, list, query.sort, sliceOf(total, page, !more), more);
  return { rows: await rowsOf<Row>(db, list, ids), total, more, page, pages };
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
  const { from, alias, where, bound } = list;
  const order = orderOf(list, query.sort, false);
  const by = [...order.by, `${alias}.id`].map((one) => `${one} ${order.direction} nulls last`).join(', ');
  const found = await db.row<{ ids: string }>(
    `select array_to_string(array(select ${alias}.id from ${from} ${order.joins ?? ''} ${whereOf(where)}
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

async function countUpTo(db: Database, { from, where, bound }: LongList, most: number): Promise<number> {
  const counted = await db.row<{ n: number }>(
    `select count(*)::int as n from (select 1 from ${from} ${whereOf(where)} limit ${most + 1}) as counted`,
    bound,
  );
  return counted?.n ?? 0;
}

/** How many are found, and the first page of them, in one search. With more than are counted it is no page. */
async function searchedOnce(db: Database, list: LongList, sort: string, most: number) {
  const { from, alias, where, bound } = list;
  const { by, joins = '', direction } = orderOf(list, sort, false);
  const rows = await db.rows<{ id: string; n: number }>(
    `with found as materialized (
       select ${[`${alias}.id`, ...by.map((one, i) => `${one} as by_${i}`)].join(', ')}
       from ${from} ${joins} ${whereOf(where)} limit ${most + 1})
     select found.id::text, (select count(*)::int from found) as n from found
     order by ${by.map((_, i) => `by_${i} ${direction} nulls last`).join(', ')}, found.id ${direction} limit ${PAGE_SIZE}`,
    bound,
  );
  return { n: rows[0]?.n ?? 0, ids: rows.map(({ id }) => id) };
}

type Slice = ReturnType<typeof sliceOf>;

/** The ids of a page, in the order of the list. */
async function idsOf(
  db: Database,
  list: LongList,
  sort: string,
  slice: Slice,
  more: boolean,
): Promise<string[]> {
  const { from, where, bound } = list;
  const order = orderOf(list, sort, slice.fromEnd);
  const { along, joins } = order;
  // Where so many are found, some stand near the beginning of any order: it is gone along until there are enough of them.
  const goesAlong =
    where.length === 0
      ? along !== undefined && slice.offset < MOST_GONE_ALONG
      : more && (along !== undefined || joins === undefined);
  const parts = partsOf(order, slice.fromEnd).map((part) => ({
    ids: goesAlong ? alongOrder(list, order, part) : sorted(list, order, part),
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
function sorted({ from, alias, where }: LongList, order: WrittenOrder, part: readonly string[]): string {
  return `select ${alias}.id::text as id from ${from} ${order.joins ?? ''} ${whereOf([...where, ...part])}
    ${orderBy(alias, order)} limit $limit offset $offset`;
}

/** The same, by going along the order, which indexes serve, and looking at each row: the fences (offset 0) keep it so. */
function alongOrder({ from, alias, where }: LongList, order: WrittenOrder, part: readonly string[]): string {
  const rows =
    order.along?.(order.direction) ??
    `(select ${alias}.* from ${from} ${whereOf(part)} ${orderBy(alias, order)} offset 0) ${alias}`;
  return `select ${alias}.id::text as id from ${rows} ${whereOf(where)} limit $limit offset $offset`;
}

/** A page of ids that may lie in several parts, one after the other: a later one is asked only where it reaches there. */
async function idsInParts(
  db: Database,
  parts: readonly { readonly ids: string; readonly from: string }[],
  { limit, offset }: Slice,
  bound: LongList['bound'],
): Promise<string[]> {
  const found: string[] = [];
  let skip = offset;
  for (const { ids, from } of parts) {
    const some = await db.rows<{ id: string }>(ids, { ...bound, limit: limit - found.length, offset: skip });
    found.push(...some.map(({ id }) => id));
    if (found.length >= limit) break;
    if (some.length > 0) skip = 0;
    else if (skip > 0)
      skip -= (await db.row<{ n: number }>(`select count(*)::int as n ${from}`, bound))?.n ?? 0;
  }
  return found;
}

/**
 * What is looked for, as patterns for `ilike any`: anywhere in a text, or, with fewer than three letters, where a word
 * begins, since otherwise it would be found nearly everywhere. Wildcards are taken as they are written.
 */
export function searchPatterns(search: string): string[] {
  const text = search.replace(/[\\%_]/g, (sign) => `\\${sign}`);
  return search.length < 3 ? [`${text}%`, `% ${text}%`, `%-${text}%`] : [`%${text}%`];
}

/** By the names of customers, along whom all rows are come to that are theirs. */
export const byCustomer = (table: string, alias: string): Order => ({
  by: ['c.name', 'c.id'],
  joins: `join customers c on c.id = ${alias}.customer_id`,
  along: (direction) => `
    (select id from customers order by name ${direction}, id ${direction} offset 0) c
    cross join lateral (select x.* from ${table} x where x.customer_id = c.id order by x.id ${direction} offset 0) ${alias}`,
});

/**
 * The ids of customers whose name, e-mail, reference or group holds `$patterns`. Lists take them as an array
 * (`= any(array(…))`): then they are looked up once, however badly it is guessed how many there will be.
 */
export const CUSTOMERS_FOUND = `
  select id from customers where name ilike any($patterns::text[])
  union select id from customers where email ilike any($patterns::text[])
  union select id from customers where reference ilike any($patterns::text[])
  union select c.id from customers c join customer_groups g on g.id = c.group_id where g.name ilike any($patterns::text[])`;

/** The ids of rates that are of a plan, or have a name, that holds `$patterns`. */
const RATES_FOUND = `
  select r.id from rates r join plans p on p.id = r.plan_id
  where r.name ilike any($patterns::text[]) or p.name ilike any($patterns::text[])`;

/**
 * The ids of subscriptions whose customer, plan or rate holds `$patterns`, each looked up by its own index: a rate at a
 * time, since however many rates are found, it is guessed that most subscriptions are theirs.
 */
export const SUBSCRIPTIONS_FOUND = `
  select id from subscriptions where customer_id = any(array(${CUSTOMERS_FOUND}))
  union select s.id from unnest(array(${RATES_FOUND})) f (id)
    cross join lateral (select id from subscriptions where rate_id = f.id offset 0) s`;
