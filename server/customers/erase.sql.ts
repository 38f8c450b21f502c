import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';

/** What decides whether a customer can be erased, and how much it is about. */
export interface ErasureFacts {
  readonly runs: number;
  readonly open: number;
  readonly underWay: number;
  readonly credit: number;
  readonly waiting: number;
  readonly invoices: number;
  readonly letters: number;
  readonly messages: number;
}

export async function erasureFacts({ db }: Almanac, id: string, within?: Transaction): Promise<ErasureFacts> {
  const facts = await db.row<ErasureFacts>(
    `select
       (select count(*)::int from subscriptions where customer_id = $id and state not in ('ended', 'lapsed')) as runs,
       (select count(*)::int from invoices where customer_id = $id and state in ('issued', 'part-paid')) as open,
       (select count(*)::int from attempts a join invoices i on i.id = a.invoice_id
        where i.customer_id = $id and a.state = 'under way') as "underWay",
       (select count(*)::int from credit_balances where customer_id = $id and credit > 0) as credit,
       (select count(*)::int from letters where customer_id = $id and state in ('queued', 'held')) as waiting,
       (select count(*)::int from invoices where customer_id = $id) as invoices,
       (select count(*)::int from letters where customer_id = $id) as letters,
       (select count(*)::int from customer_messages where customer_id = $id) as messages`,
    { id },
    within,
  );
  if (!facts) throw new Error('Nothing was counted.');
  return facts;
}

/** What stands where something was erased. */
const ERASED = '(erased)';

/** Part by part, what is erased of a customer `$id`; `$on` is the business date. */
const ERASURES: readonly string[] = [
  `delete from notes where customer_id = $id`,
  `update suspensions set why = '${ERASED}' where customer_id = $id`,
  `delete from link_visits v using customer_links l where l.id = v.link_id and l.customer_id = $id`,
  `delete from enrolment_drafts where customer_id = $id`,
  `delete from merged_references where customer_id = $id`,
  `delete from customer_files where customer_id = $id`,
  `update letters set contact_id = null where customer_id = $id`,
  `delete from contacts where customer_id = $id`,
  `update customer_messages set says = '${ERASED}' where customer_id = $id`,
  // That a letter of some kind went out on a day stays; who got it, and what it said of them, does not.
  `update letters set to_address = '${ERASED}', subject = event, fields = null, html = '${ERASED}', plain = '${ERASED}', fate = '' where customer_id = $id`,
  `update needs set says = '${ERASED}', settled_on = coalesce(settled_on, $on) where customer_id = $id`,
  `update mandates d set address = '', agent = '' from payment_methods m where m.id = d.payment_method_id and m.customer_id = $id`,
  `update agreements a set address = '', agent = '', no_tax_because = '', terms_address = '', terms_agent = '' from subscriptions s
   where s.id = a.subscription_id and s.customer_id = $id`,
  `update payment_methods set state = 'replaced', gateway_token = 'erased ' || id, network = '${ERASED}', last_four = '0000', holder = ''
   where customer_id = $id`,
  `update attempts a set request = null from invoices i where i.id = a.invoice_id and i.customer_id = $id and a.state <> 'under way'`,
  `update takings set reference = '', note = '' where customer_id = $id`,
  `update refunds set reason = '${ERASED}', request = case when means = 'gateway' then '{}'::jsonb end where customer_id = $id and state <> 'under way'`,
  `update credit_notes set reason = '' where customer_id = $id`,
  `update subscriptions set answers = '[]', invoice_fields = '[]', own_method_id = null, served_at = served_at - 'name' - 'address' - 'postcode' where customer_id = $id`,
  `update reckonings set frozen = jsonb_set(frozen, '{answers}', '[]') - 'place' - 'note' - 'noTaxBecause' where customer_id = $id`,
];

/** Erases what is known of a customer, beside their own row. */
export async function eraseRecords(
  { db }: Almanac,
  id: string,
  on: string,
  within: Transaction,
): Promise<void> {
  for (const statement of ERASURES)
    await db.rows(statement, statement.includes('$on') ? { id, on } : { id }, within);
}
