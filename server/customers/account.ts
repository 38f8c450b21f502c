import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { RefusedCommand } from '../http/problem.ts';
import { MEANS_BY_HAND, MEANS_NAMES } from '../payments/meansKinds.ts';
import type { AccountKind, AccountLine, AccountQuery, AccountView } from './accountMessages.ts';
import { Customer } from './Customer.ts';

interface Row {
  readonly on: string;
  readonly kind: AccountKind;
  readonly about: string;
  readonly invoiceId: string | null;
  readonly amount: string;
}

/** So many movements are listed: whoever has more asks for fewer days. */
const MOST_LINES = 5_000;

const CARD = `case when a.means <> 'gateway' then a.means when m.last_four <> '' then m.network || ' ending ' || m.last_four else m.network end`;

/**
 * What moved the account of the customer `$id`: each document and each movement of money once, by the day that it counts for.
 * What credit pays for moves nothing: it was owed less from when the credit was given.
 */
const MOVEMENTS = `
  select i.issued_on as on, 1 as turn, i.id as nth, 'invoice' as kind, i.prefix || i.number as about, i.id as invoice, i.total as amount, i.currency
  from invoices i where i.customer_id = $id and i.state <> 'draft' and i.total <> 0
  union all
  select n.issued_on, 2, n.id, 'credit note', n.prefix || n.number, n.invoice_id, -n.total, n.currency from credit_notes n where n.customer_id = $id
  union all
  select p.paid_on, 3, p.id, 'payment', ${CARD}, a.invoice_id, -p.amount, p.currency
  from payments p join attempts a on a.id = p.attempt_id left join payment_methods m on m.id = a.payment_method_id where a.customer_id = $id
  union all
  select t.received_on, 3, t.id, 'payment', t.means, null, -t.over, t.currency from takings t where t.customer_id = $id and t.over > 0
  union all
  select f.asked_on, 4, f.id, 'paid back', coalesce(${CARD}, f.means), null, f.amount, f.currency
  from refunds f left join attempts a on a.id = f.attempt_id and f.means = 'gateway' left join payment_methods m on m.id = a.payment_method_id
  where f.customer_id = $id
  union all
  select f.settled_on, 5, f.id, 'came back', f.means, null, -f.amount, f.currency from refunds f where f.customer_id = $id and f.state = 'failed'
  union all
  select j.posted_on, 6, j.id, j.event, i.prefix || i.number, i.id,
    (select sum(l.amount) from unnest(j.accounts, j.amounts) as l (account_id, amount) join accounts x on x.id = l.account_id
     where x.kind = 'receivable'), j.currency
  from journal j join invoices i on i.id = j.invoice_id
  where i.customer_id = $id and j.event in ('written off', 'write-off taken back')`;

/**
 * The statement of a customer's account: what was owed before, each movement, and what is owed after. Below zero the customer has
 * so much to their credit.
 */
export async function accountOf(almanac: Almanac, id: string, asked: AccountQuery): Promise<AccountView> {
  const { db } = almanac;
  const customer = await Customer.findByPk(id);
  if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
  const found = await db.rows<{ currency: string }>(
    `select currency from (${MOVEMENTS}) moved group by 1 order by 1`,
    { id },
  );
  const currencies = found.map(({ currency }) => currency);
  const { homeCurrency } = await theBusiness();
  const currency = asked.currency || currencies[0] || homeCurrency;
  const { from } = asked;
  // A statement is of what there was: nothing lies after the business day.
  const today = await businessDateOf(almanac);
  const until = asked.until < today ? asked.until : today;
  const opening = await db.row<{ amount: string }>(
    `select coalesce(sum(amount), 0)::text as amount from (${MOVEMENTS}) moved where currency = $currency and "on" < $from`,
    { id, currency, from },
  );
  const rows = await db.rows<Row>(
    `select "on", kind, about, invoice::text as "invoiceId", amount::text from (${MOVEMENTS}) moved
     where currency = $currency and "on" between $from and $until order by "on", turn, nth limit ${MOST_LINES + 1}`,
    { id, currency, from, until },
  );
  if (rows.length > MOST_LINES)
    throw new RefusedCommand(422, `These are more than ${MOST_LINES} movements: choose fewer days.`, '/from');
  let balance = BigInt(opening?.amount ?? 0);
  const lines = rows.map((row): AccountLine => {
    balance += BigInt(row.amount);
    return { ...row, about: sayAbout(row), balance: balance.toString() };
  });
  return {
    ...{ customer: customer.name, currency, currencies, from, until },
    ...{ opening: opening?.amount ?? '0', closing: balance.toString(), lines },
  };
}

function sayAbout({ about }: Row): string {
  const means = MEANS_BY_HAND.find((one) => one === about);
  return means ? MEANS_NAMES[means] : about;
}
