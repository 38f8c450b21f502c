import { sayAmount } from '../../core/words/amount.ts';
import { readAmount } from '../../core/typed/amount.ts';
import { localeOf } from '../../core/typed/manner.ts';
import type { Almanac } from '../almanac.ts';
import { plainText } from '../parsing/plainText.ts';
import { settingsOf } from '../settings/settings.ts';
import { likeItself, likePattern } from './list.ts';
import { customersFound, searchPatterns } from './search.ts';

export interface Found {
  readonly kind: 'customer' | 'invoice' | 'plan';
  readonly says: string;
  readonly detail: string;
  readonly path: string;
  /** What it is the very one of, such as its number; null where it only holds what was typed. */
  readonly exactly: 'number' | 'name' | 'e-mail' | 'amount' | null;
}

/** How near something is: the very number before the very name, before a sum, before what begins so, before the rest. */
const NEARNESS: readonly Found['exactly'][] = ['number', 'name', 'e-mail', 'amount'];

/** Decimals that currencies have: a sum is looked for as each would store it. */
const DIGITS = [0, 2, 3];

/** Finds anything by a few letters or digits: customers, invoice numbers, plans, amounts. What is exactly it comes first. */
export async function find(almanac: Almanac, text: string): Promise<Found[]> {
  const search = text.trim().slice(0, 100);
  if (search === '') return [];
  const found = (
    await Promise.all([customers(almanac, search), invoices(almanac, search), plans(almanac, search)])
  ).flat();
  const rank = (one: Found) => {
    if (one.exactly !== null) return NEARNESS.indexOf(one.exactly);
    return NEARNESS.length + (one.says.toLowerCase().startsWith(search.toLowerCase()) ? 0 : 1);
  };
  return found
    .map((one, at) => ({ one, at }))
    .sort((a, b) => rank(a.one) - rank(b.one) || a.at - b.at)
    .map(({ one }) => one);
}

/** So many customers are shown, */
const MOST_SHOWN = 8;
/** the first by name of so many that hold what was typed; whoever is exactly it is always among them. */
const MOST_FOUND = 1_000;

const isSame = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase();

async function customers(almanac: Almanac, search: string): Promise<Found[]> {
  const rows = await almanac.db.rows<{ id: string; name: string; email: string; reference: string }>(
    `select id, name, email, reference from customers where id = any(array(${customersFound(MOST_FOUND)}
       union (select id from customers where reference ilike $same limit ${MOST_SHOWN})
       union (select id from customers where name ilike $same limit ${MOST_SHOWN})
       union (select id from customers where email ilike $same limit ${MOST_SHOWN})))
     order by lower($search) in (lower(reference), lower(name), lower(email)) desc, name, id limit ${MOST_SHOWN}`,
    { patterns: searchPatterns(search), same: likeItself(search), search },
  );
  return rows.map(({ id, name, email, reference }) => ({
    kind: 'customer',
    says: name,
    detail: reference.startsWith('new-') ? email : `${reference}, ${email}`,
    path: `/customers/${id}`,
    exactly: isSame(reference, search)
      ? 'number'
      : isSame(name, search)
        ? 'name'
        : isSame(email, search)
          ? 'e-mail'
          : null,
  }));
}

async function invoices(almanac: Almanac, search: string): Promise<Found[]> {
  if (!/\d/.test(search)) return [];
  const { language, country } = await settingsOf(almanac, 'business');
  const sum = readAmount(search.replace(/^[^\d]+|[^\d]+$/g, ''), localeOf(language, country), {
    currency: null,
    decimals: 3,
  });
  const sums = sum.ok ? DIGITS.flatMap((digits) => minorOf(sum.value, digits)) : [];
  const rows = await almanac.db.rows<{
    number: string;
    subscription_id: string;
    total: string;
    currency: string;
    customer: string;
    is_number: boolean;
    is_sum: boolean;
  }>(
    `select i.prefix || i.number as number, i.subscription_id, i.total, i.currency, c.name as customer,
       (i.number::text = $search or lower(i.prefix || i.number) = lower($search)) as is_number,
       (i.total = any($sums::bigint[])) as is_sum
     from (
       select * from (select * from invoices where number = any($numbers::bigint[])) named
       union
       select * from (select * from invoices where total = any($sums::bigint[]) order by id desc limit 6) summed) i
     join customers c on c.id = i.customer_id
     order by 6 desc, 7 desc, i.id desc limit 6`,
    { search, sums, numbers: numbersIn(search) },
  );
  return rows.map((invoice) => ({
    kind: 'invoice',
    says: `Invoice ${invoice.number}`,
    detail: `${invoice.customer}, ${sayAmount(BigInt(invoice.total), invoice.currency)}`,
    path: `/subscriptions/${invoice.subscription_id}`,
    exactly: invoice.is_number ? 'number' : invoice.is_sum ? 'amount' : null,
  }));
}

/** The numbers that an invoice may have that is called so: all digits, or those after a prefix. */
function numbersIn(search: string): string[] {
  const last = /(\d{1,18})$/.exec(search)?.[1];
  if (last === undefined) return [];
  // A prefix may itself end in digits: whatever of them is no part of it is the number.
  return Array.from({ length: last.length }, (_, from) => last.slice(from)).filter(
    (digits) => !digits.startsWith('0'),
  );
}

/** A decimal as so many decimals store it; nothing where it has more. */
function minorOf(decimal: string, digits: number): string[] {
  const [whole = '0', fraction = ''] = decimal.split('.');
  return fraction.length > digits ? [] : [`${whole}${fraction.padEnd(digits, '0')}`.replace(/^0+(?=\d)/, '')];
}

async function plans(almanac: Almanac, search: string): Promise<Found[]> {
  const rows = await almanac.db.rows<{ id: string; name: string; description: string }>(
    `select id, name, description from plans where name ilike $pattern
     order by lower(name) = lower($search) desc, name limit 4`,
    { pattern: likePattern(search), search },
  );
  return rows.map(({ id, name, description }) => ({
    kind: 'plan',
    says: name,
    detail: plainText(description),
    path: `/plans?plan=${id}`,
    exactly: isSame(name, search) ? 'name' : null,
  }));
}
