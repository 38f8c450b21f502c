import type { Bound, Database } from '../db/database.ts';
import { PAGE_SIZE, type ListQuery, type Page } from './list.ts';

/** So many rows of what is searched or filtered are counted; whoever comes to more than that narrows the question. */
export const MOST_COUNTED = 10_000;
/** The same of a whole list: its order is turned round to come to the others. */
const MOST_OF_ALL = 200_000;

/** An order of a list: what is ordered by, and what has to be joined for that. */
export interface Order {
  readonly by: string;
  /** Some rows have no value: they come last, whichever way round. */
  readonly mayLack?: true;
  readonly joins?: string;
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
  const { from, where, bound } = list;
  const conditions = where.length === 0 ? '' : `where ${where.map((one) => `(${one})`).join(' and ')}`;
  const most = where.length === 0 ? MOST_OF_ALL : (list.mostCounted ?? MOST_COUNTED);
  const counted = await db.row<{ n: number }>(
    `select count(*)::int as n from (select 1 from ${from} ${conditions} limit ${most + 1}) as counted`,
    bound,
  );
  const n = counted?.n ?? 0;
  const more = n > most;
  const total = Math.min(n, most);
  const pages = Math.max(1, Math.ceil(total / PAGE_SIZE));
  const page = Math.min(query.page, pages);
  const slice = sliceOf(total, page, !more);
  const order = orderOf(list, query.sort, slice.fromEnd);
  // Where so many are found, some stand near the beginning of any order: it is gone along until there are enough of them.
  const along = more && where.length > 0 && order.joins === '';
  const statement = along ? alongOrder(list, conditions, order) : idsOf(list, conditions, order);
  const ids = await db.rows<{ id: string }>(statement, {
    ...bound,
    ...{ limit: slice.limit, offset: slice.offset },
  });
  if (slice.fromEnd) ids.reverse();
  const rows =
    ids.length === 0 ? [] : await db.rows<Row>(list.shown, { ...bound, ids: ids.map(({ id }) => id) });
  const byId = new Map(rows.map((row) => [row.id, row]));
  return { rows: ids.flatMap(({ id }) => byId.get(id) ?? []), total, more, page, pages };
}

/** From which end a page is come to, and past how many rows. */
function sliceOf(total: number, page: number, endIsKnown: boolean) {
  const offset = (page - 1) * PAGE_SIZE;
  const limit = Math.max(0, Math.min(PAGE_SIZE, total - offset));
  const fromEnd = endIsKnown && offset > total / 2;
  return { limit, fromEnd, offset: fromEnd ? total - offset - limit : offset };
}

interface WrittenOrder {
  readonly joins: string;
  readonly by: string;
}

function orderOf({ alias, orders }: LongList, sort: string, fromEnd: boolean): WrittenOrder {
  const backwards = sort.startsWith('-');
  const name = backwards ? sort.slice(1) : sort;
  const isKnown = Object.hasOwn(orders, name);
  const {
    by,
    joins = '',
    mayLack = false,
  } = (isKnown ? orders[name] : Object.values(orders)[0]) ?? { by: `${alias}.id` };
  const down = backwards && isKnown;
  const direction = down !== fromEnd ? 'desc' : 'asc';
  // Said only where it matters: an index is read backwards for the plain opposite of its order alone.
  const nulls = !mayLack ? '' : fromEnd ? 'nulls first' : 'nulls last';
  return { joins, by: `${by} ${direction} ${nulls}, ${alias}.id ${direction}` };
}

function idsOf({ from, alias }: LongList, conditions: string, { joins, by }: WrittenOrder): string {
  return `select ${alias}.id::text as id from ${from} ${joins} ${conditions}
    order by ${by} limit $limit offset $offset`;
}

/** The same, by going along the order, which an index serves, and looking at each row: the fence (offset) keeps it so. */
function alongOrder({ from, alias }: LongList, conditions: string, { by }: WrittenOrder): string {
  return `select ${alias}.id::text as id from (select ${alias}.* from ${from} order by ${by} offset 0) ${alias} ${conditions}
    limit $limit offset $offset`;
}

/**
 * What is looked for, as patterns for `ilike any`: anywhere in a text, or, with fewer than three letters, where a word
 * begins, since otherwise it would be found nearly everywhere. Wildcards are taken as they are written.
 */
export function searchPatterns(search: string): string[] {
  const text = search.replace(/[\\%_]/g, (sign) => `\\${sign}`);
  return search.length < 3 ? [`${text}%`, `% ${text}%`, `%-${text}%`] : [`%${text}%`];
}

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
