import { likeItself } from './list.ts';

/**
 * What is looked for in a long list, in two ways: found by indexes beforehand, or seen by looking at a row. The first is
 * quick where little is found, the second where nearly everything is.
 */
export interface Search {
  /** The common table expressions of what is found by indexes: of each part up to `most` rows, or all of them. */
  readonly found: (most: number | null) => string;
  /** Whether nothing but customers is found, so that their order is that of what is theirs: an expression. */
  readonly ofCustomersAlone: string;
  /** Whether more than `most` were found of some part, so that there are others: an expression over {@link found}. */
  readonly isCut: (most: number) => string;
  /** The column of the list by which its rows are found, and the statement of the ids found for it. */
  readonly column: string;
  readonly ids: string;
  /** Whether a row of the list is sought: a condition that looks at it and at its own customer, plan and group alone. */
  readonly matches: string;
}

/**
 * What is looked for, as patterns for `ilike any`: anywhere in a text, or, with fewer than three letters, where a word
 * begins, since otherwise it would be found nearly everywhere. Wildcards are taken as they are written.
 */
export function searchPatterns(search: string): string[] {
  const text = likeItself(search);
  return search.length < 3 ? [`${text}%`, `% ${text}%`, `%-${text}%`] : [`%${text}%`];
}

const upTo = (most: number | null) => (most === null ? '' : `limit ${most + 1}`);

/**
 * The ids of customers whose name, e-mail, reference or group holds `$patterns`, each looked up by its own index. Lists take
 * them as an array (`= any(array(…))`): then they are looked up once, however badly it is guessed how many there will be.
 */
export const customersFound = (most: number | null) => `
  (select id from customers where name ilike any($patterns::text[]) ${upTo(most)})
  union (select id from customers where email ilike any($patterns::text[]) ${upTo(most)})
  union (select id from customers where reference ilike any($patterns::text[]) ${upTo(most)})
  union (select c.id from customers c join customer_groups g on g.id = c.group_id
         where g.name ilike any($patterns::text[]) ${upTo(most)})`;

/** The customer `c` is one that {@link customersFound} would find. */
export const CUSTOMER_MATCHES = `
  (c.name ilike any($patterns::text[]) or c.email ilike any($patterns::text[]) or c.reference ilike any($patterns::text[])
   or coalesce(c.group_id = any(array(select id from customer_groups where name ilike any($patterns::text[]))), false))`;

// One value and no `exists`: that might be answered by finding all customers first.
const customerMatches = (id: string) => `(select ${CUSTOMER_MATCHES} from customers c where c.id = ${id})`;

/** The ids of rates that are of a plan, or have a name, that holds `$patterns`. */
const RATES_FOUND = `
  select r.id from rates r join plans p on p.id = r.plan_id
  where r.name ilike any($patterns::text[]) or p.name ilike any($patterns::text[])`;

/**
 * The ids of subscriptions whose customer, plan or rate holds `$patterns`: a rate at a time, since however many rates are
 * found, it is guessed that most subscriptions are theirs.
 */
const subscriptionsFound = (most: number | null) => `
  (select id from subscriptions where customer_id = any(array(select id from customers_found)))
  union (select s.id from unnest(array(${RATES_FOUND})) f (id)
    cross join lateral (select id from subscriptions where rate_id = f.id offset 0) s ${upTo(most)})`;

const SUBSCRIPTION_MATCHES = `(s.rate_id = any(array(${RATES_FOUND})) or ${customerMatches('s.customer_id')})`;

const withCustomers = (most: number | null) => `customers_found as materialized (${customersFound(most)})`;
const withSubscriptions = (most: number | null) =>
  `${withCustomers(most)}, subscriptions_found as materialized (${subscriptionsFound(most)})`;
const NO_RATES_FOUND = `not exists (${RATES_FOUND})`;
const isLonger = (name: string, most: number) => `(select count(*) > ${most} from ${name})`;
const subscriptionsAreCut = (most: number) =>
  `(${isLonger('customers_found', most)} or ${isLonger('subscriptions_found', most)})`;

/** Looks for customers `c`. */
export const CUSTOMER_SEARCH: Search = {
  found: withCustomers,
  ofCustomersAlone: 'true',
  isCut: (most) => isLonger('customers_found', most),
  column: 'c.id',
  ids: 'select id from customers_found',
  matches: CUSTOMER_MATCHES,
};

/** Looks for subscriptions `s`, by whose they are and what to. */
export const SUBSCRIPTION_SEARCH: Search = {
  found: withSubscriptions,
  ofCustomersAlone: NO_RATES_FOUND,
  isCut: subscriptionsAreCut,
  column: 's.id',
  ids: 'select id from subscriptions_found',
  matches: SUBSCRIPTION_MATCHES,
};

/** Looks for what belongs to subscriptions: rows under an alias that have a `subscription_id`. */
export const searchBySubscription = (alias: string): Search => ({
  found: withSubscriptions,
  ofCustomersAlone: NO_RATES_FOUND,
  isCut: subscriptionsAreCut,
  column: `${alias}.subscription_id`,
  ids: 'select id from subscriptions_found',
  matches: `(select ${SUBSCRIPTION_MATCHES} from subscriptions s where s.id = ${alias}.subscription_id)`,
});

/** Looks for what belongs to customers: rows under an alias that have a `customer_id`. */
export const searchByCustomer = (alias: string): Search => ({
  found: withCustomers,
  ofCustomersAlone: 'true',
  isCut: (most) => isLonger('customers_found', most),
  column: `${alias}.customer_id`,
  ids: 'select id from customers_found',
  matches: customerMatches(`${alias}.customer_id`),
});
