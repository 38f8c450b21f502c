import type { Almanac } from '../../almanac.ts';

/** Of steps whose items are subscriptions: the item itself. */
export const itself = (_almanac: Almanac, item: string): Promise<string> => Promise.resolve(item);

/** Of steps whose items begin with a subscription, such as `7:30`. */
export const firstPart = (_almanac: Almanac, item: string): Promise<string | null> =>
  Promise.resolve(item.split(':')[0] ?? null);

/** Of steps whose items are customers: the newest of what they subscribe to. */
export async function ofCustomer(almanac: Almanac, item: string): Promise<string | null> {
  const row = await almanac.db.row<{ id: string | null }>(
    'select max(id)::text as id from subscriptions where customer_id = $item',
    { item },
  );
  return row?.id ?? null;
}

/** Of steps whose items belong to nobody. */
export const nobody = (): Promise<null> => Promise.resolve(null);

/** Of steps whose items begin with an invoice, such as `12:1`. */
export async function ofInvoice(almanac: Almanac, item: string): Promise<string | null> {
  const row = await almanac.db.row<{ id: string }>(
    'select subscription_id::text as id from invoices where id = $id',
    { id: item.split(':')[0] ?? '' },
  );
  return row?.id ?? null;
}

/** Of steps whose items are attempts. */
export async function ofAttempt(almanac: Almanac, item: string): Promise<string | null> {
  const row = await almanac.db.row<{ id: string }>(
    'select i.subscription_id::text as id from attempts a join invoices i on i.id = a.invoice_id where a.id = $item',
    { item },
  );
  return row?.id ?? null;
}

/** Of steps whose items are methods: the first of what is charged to it. */
export async function ofMethod(almanac: Almanac, item: string): Promise<string | null> {
  const row = await almanac.db.row<{ id: string | null }>(
    `select min(s.id)::text as id from payment_methods m join subscriptions s on s.customer_id = m.customer_id
     where m.id = $item and (m.role <> 'own' or s.own_method_id = m.id)`,
    { item },
  );
  return row?.id ?? null;
}
