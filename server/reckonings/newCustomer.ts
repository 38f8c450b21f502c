import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { sayCountry } from '../../core/words/countries.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import { ownFieldsOf, requirePostcode } from '../customers/places.ts';
import { requireTaxNumber } from '../customers/taxNumbers.ts';
import { groupNamed } from '../customers/groups.ts';
import { RefusedCommand } from '../http/problem.ts';
import { CONTACT_FIELDS, type ContactField, type SectionValue } from '../settings/messages.ts';
import { settingsOf } from '../settings/settings.ts';
import type { acceptanceSchema } from '../subscriptions/messages.ts';

type Who = z.output<typeof acceptanceSchema>['customer'];
type NewCustomer = Extract<Who, { name: string }>;

/** What is asked of somebody new: of Setup, or of the page that they joined on. */
export interface AskedOfNew {
  readonly ask: SectionValue<'customers'>['ask'];
  readonly fields: readonly { readonly label: string; readonly required: boolean }[];
}

/** Whoever takes up a reckoning: customers there are, or somebody new, written down with what is asked of one. */
export async function customersOf(
  almanac: Almanac,
  all: readonly { readonly who: Who; readonly asked?: AskedOfNew | undefined }[],
  businessDate: string,
  within: Transaction,
): Promise<Customer[]> {
  const facts = [];
  for (const { who, asked } of all)
    facts.push('id' in who ? null : await factsOf(almanac, who, { businessDate, asked }, within));
  const fresh = facts.filter((one) => one !== null);
  // One is made alone as before; several in one statement, in their order.
  const made =
    fresh.length === 1 && fresh[0]
      ? [await Customer.create(fresh[0], { transaction: within })]
      : await Customer.bulkCreate(fresh, { transaction: within, returning: true });
  const customers: Customer[] = [];
  for (const { who } of all) {
    const customer = 'id' in who ? await Customer.findByPk(who.id, { transaction: within }) : made.shift();
    if (!customer) throw new RefusedCommand(422, 'Choose a customer.', '/customer');
    if (customer.erasedOn)
      throw new RefusedCommand(422, 'What was known of this customer has been erased.', '/customer');
    customers.push(customer);
  }
  return customers;
}

/** What is written down of a new customer, with what is asked of one; a refusal where it is not there, or not good. */
async function factsOf(
  almanac: Almanac,
  who: NewCustomer,
  of: { readonly businessDate: string; readonly asked: AskedOfNew | undefined },
  within: Transaction,
) {
  const setup = { ...(await settingsOf(almanac, 'customers', within)), ...of.asked };
  const { ask, serves } = setup;
  for (const field of Object.keys(CONTACT_FIELDS) as ContactField[]) {
    if (ask[field] === 'required' && who[field] === '')
      throw new RefusedCommand(
        422,
        `${CONTACT_FIELDS[field]}: this is asked of every customer.`,
        `/customer/${field}`,
      );
  }
  if (serves.length > 0 && who.country !== '' && !serves.includes(who.country)) {
    throw new RefusedCommand(
      422,
      `Customers in ${sayCountry(who.country)} are not served; see Setup, Customers.`,
      '/customer/country',
    );
  }
  requirePostcode(who.postcode, who.country, '/customer/postcode');
  if (who.shipping)
    requirePostcode(who.shipping.postcode, who.shipping.country, '/customer/shipping/postcode');
  requireTaxNumber(who.tax_number, who.country, '/customer/tax_number');
  const fields = ownFieldsOf(who.fields, setup, '/customer/fields');
  if (!who.another) await requireNewAddress(almanac, who.email, within);
  const { tax_number: taxNumber, tax_exempt: taxExempt, country, group, another: _, ...facts } = who;
  return {
    ...{ ...facts, fields, taxNumber, taxExempt },
    country: country === '' ? null : country,
    groupId: await groupNamed(almanac, group, within),
    reference: `new-${randomUUID()}`,
    createdOn: of.businessDate,
  };
}

/**
 * Refuses somebody new whose address a customer has already. Whoever enrols the same person at the same time waits here,
 * and finds them.
 */
async function requireNewAddress(almanac: Almanac, email: string, within: Transaction): Promise<void> {
  const address = email.toLowerCase();
  await almanac.db.rows('select pg_advisory_xact_lock(hashtextextended($address, 7))', { address }, within);
  const known = await almanac.db.row<{ name: string }>(
    'select name from customers where lower(email) = $address order by id limit 1',
    { address },
    within,
  );
  if (known)
    throw new RefusedCommand(
      422,
      `${known.name} has this address already. Enrol ${known.name}, or say that this is somebody else.`,
      '/customer/email',
    );
}
