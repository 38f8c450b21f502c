import type { Transaction } from 'sequelize';
import { UniqueConstraintError } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Customer } from './Customer.ts';
import type { contactSchema, ContactView, noteSchema } from './contactMessages.ts';

/** So many people may stand beside a customer. */
const MOST_CONTACTS = 20;

type Contact = z.output<typeof contactSchema>;

/** The people beside a customer, by name. */
export function listContacts({ db }: Almanac, customerId: string): Promise<ContactView[]> {
  return db.rows<ContactView>(
    `select id::text, name, email, phone, role, letters, receipts, receipts_why as "receiptsWhy", added_on as "addedOn" from contacts
     where customer_id = $customerId order by name, id`,
    { customerId },
  );
}

async function nameOf(customerId: string): Promise<string> {
  const customer = await Customer.findByPk(customerId);
  if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
  return customer.name;
}

/** Writes down somebody beside a customer: letters from now on go to them too, as far as they want them. */
export async function addContact(
  almanac: Almanac,
  customerId: string,
  contact: Contact,
): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) =>
    insertContact(almanac, { customerId, contact, on: await businessDateOf(almanac, within) }, within),
  );
}

/** The same, as a part of something else. */
export async function insertContact(
  almanac: Almanac,
  of: { readonly customerId: string; readonly contact: Contact; readonly on: string },
  within: Transaction,
): Promise<{ id: string }> {
  const { customerId, contact, on } = of;
  // Whoever adds another one at the same time waits, so that there are never too many.
  const customer = await lockedCustomer(customerId, within);
  const kept = await almanac.db.row<{ n: number; same: boolean }>(
    `select count(*)::int as n, coalesce(bool_or(lower(email) = lower($email)), false) as same
     from contacts where customer_id = $customerId`,
    { customerId, email: contact.email },
    within,
  );
  if ((kept?.n ?? 0) >= MOST_CONTACTS)
    throw new RefusedCommand(409, `At most ${MOST_CONTACTS} people beside a customer.`, '/email');
  if (kept?.same) throw new RefusedCommand(422, TWICE, '/email');
  const { letters, ...rest } = contact;
  const added = await almanac.db.row<{ id: string }>(
    `insert into contacts (customer_id, name, email, phone, role, letters, receipts, receipts_why, added_on)
     values ($customerId, $name, $email, $phone, $role, $letters::text[], $receipts, $receiptsWhy, $on) returning id::text`,
    { customerId, ...rest, letters, on },
    within,
  );
  await recordDone(almanac, { did: 'added a contact', subject: customer.name, after: contact }, within);
  return { id: added?.id ?? '' };
}

const TWICE = 'Somebody with this address stands beside the customer already.';

/** Changes somebody beside a customer. */
export async function changeContact(
  almanac: Almanac,
  customerId: string,
  id: string,
  contact: Contact,
): Promise<void> {
  const customer = await nameOf(customerId);
  await once(async () => {
    const { letters, ...rest } = contact;
    const changed = await almanac.db.row(
      `update contacts set name = $name, email = $email, phone = $phone, role = $role, letters = $letters::text[],
         receipts = $receipts, receipts_why = $receiptsWhy
       where id = $id and customer_id = $customerId returning id`,
      { id, customerId, ...rest, letters },
    );
    if (!changed) throw new RefusedCommand(404, 'There is no such contact.');
    await recordDone(almanac, { did: 'changed a contact', subject: customer, after: contact });
  });
}

/** Leaves out somebody beside a customer; letters that they got stay in the letterbook. */
export async function removeContact(almanac: Almanac, customerId: string, id: string): Promise<void> {
  const customer = await nameOf(customerId);
  const gone = await almanac.db.row<{ name: string }>(
    'delete from contacts where id = $id and customer_id = $customerId returning name',
    { id, customerId },
  );
  if (!gone) throw new RefusedCommand(404, 'There is no such contact.');
  await recordDone(almanac, { did: 'left out a contact', subject: customer, before: gone });
}

/** Does what may name an address twice, and says so beside the field. */
async function once<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof UniqueConstraintError)) throw error;
    throw new RefusedCommand(422, TWICE, '/email');
  }
}

/** Notes something about a customer, for staff alone. */
export async function addNote(
  almanac: Almanac,
  customerId: string,
  { says, subscriptionId }: z.output<typeof noteSchema>,
): Promise<void> {
  const customer = await nameOf(customerId);
  const on = await businessDateOf(almanac);
  if (subscriptionId !== null) {
    const own = await almanac.db.row(
      'select 1 from subscriptions where id = $subscriptionId and customer_id = $customerId',
      { subscriptionId, customerId },
    );
    if (!own) throw new RefusedCommand(422, 'This is no subscription of the customer.', '/subscriptionId');
  }
  await almanac.db.transaction(async (within) => {
    await insertNote(almanac, { customerId, subscriptionId, says, on }, within);
    await recordDone(almanac, { did: 'noted something', subject: customer, after: { says } }, within);
  });
}

/** Writes a note down, in the name of whoever asks. */
export async function insertNote(
  { db }: Almanac,
  note: {
    readonly customerId: string;
    readonly subscriptionId: string | null;
    readonly says: string;
    readonly on: string;
  },
  within: Transaction,
): Promise<void> {
  await db.rows(
    `insert into notes (customer_id, subscription_id, says, written_on, written_by)
     values ($customerId, $subscriptionId, $says, $on, $by)`,
    { ...note, by: askerNow().who },
    within,
  );
}
