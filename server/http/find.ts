import { sayAmount } from '../../core/words/amount.ts';
import type { Almanac } from '../almanac.ts';
import { plainText } from '../parsing/plainText.ts';
import { likePattern } from './list.ts';

export interface Found {
  readonly kind: 'customer' | 'invoice' | 'plan';
  readonly says: string;
  readonly detail: string;
  readonly path: string;
}

/** Finds anything by a few letters or digits: customers, invoice numbers, plans, amounts. */
export async function find(almanac: Almanac, text: string): Promise<Found[]> {
  const search = text.trim().slice(0, 100);
  if (search === '') return [];
  const pattern = likePattern(search);
  const digits = search.replace(/[^\d]/g, '').slice(0, 15);
  const [customers, plans, invoices] = await Promise.all([
    almanac.db.rows<{ id: string; name: string; email: string }>(
      'select id, name, email from customers where name ilike $pattern or email ilike $pattern or reference ilike $pattern order by name limit 8',
      { pattern },
    ),
    almanac.db.rows<{ id: string; name: string; description: string }>(
      'select id, name, description from plans where name ilike $pattern order by name limit 4',
      { pattern },
    ),
    digits === ''
      ? []
      : almanac.db.rows<{
          number: string;
          subscription_id: string;
          total: string;
          currency: string;
          customer: string;
        }>(
          `select i.prefix || i.number as number, i.subscription_id, i.total, i.currency, c.name as customer
           from invoices i join customers c on c.id = i.customer_id
           where i.number::text = $digits or i.prefix || i.number ilike $pattern or i.total::text = $digits order by i.id desc limit 6`,
          { digits, pattern: likePattern(search) },
        ),
  ]);
  return [
    ...customers.map(({ id, name, email }): Found => ({
      kind: 'customer',
      says: name,
      detail: email,
      path: `/customers/${id}`,
    })),
    ...invoices.map((invoice): Found => ({
      kind: 'invoice',
      says: `Invoice ${invoice.number}`,
      detail: `${invoice.customer}, ${sayAmount(BigInt(invoice.total), invoice.currency)}`,
      path: `/subscriptions/${invoice.subscription_id}`,
    })),
    ...plans.map(({ id, name, description }): Found => ({
      kind: 'plan',
      says: name,
      detail: plainText(description),
      path: `/plans?plan=${id}`,
    })),
  ];
}
