import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { ownFieldsOf, requirePostcode } from './places.ts';
import { requireTaxNumber } from './taxNumbers.ts';
import { differenceOf, settingsOf } from '../settings/settings.ts';
import { Customer } from './Customer.ts';
import { endLinks } from './endLinks.ts';
import { groupNamed } from './groups.ts';
import type { customerSchema, CustomerView } from './messages.ts';

/** One customer with everything that is known of them, or a refusal. */
export async function readCustomer(
  almanac: Almanac,
  id: string,
  within?: Transaction,
): Promise<CustomerView> {
  const found = await almanac.db.row<CustomerView>(
    `select id::text, reference, version, created_on as "createdOn", name, email, phone, organisation, address, postcode, shipping,
       coalesce((select jsonb_object_agg(f ->> 'label', f ->> 'value') from jsonb_array_elements(fields) f), '{}') as fields,
       coalesce(country, '') as country, region, language, tax_number as "taxNumber", tax_exempt as "taxExempt", receipts, receipts_why as "receiptsWhy",
       coalesce((select g.name from customer_groups g where g.id = group_id), '') as "group"
     from customers where id = $id`,
    { id },
    within,
  );
  if (!found) throw new RefusedCommand(404, 'There is no such customer.');
  return found;
}

/**
 * Changes what is known of a customer: letters, taxes and invoices from now on follow it. Invoices that are issued
 * keep the name, address and taxes that they were issued with.
 */
export async function changeCustomer(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: z.output<typeof customerSchema> },
): Promise<CustomerView> {
  await almanac.db.transaction(async (within) => {
    const customer = await Customer.findByPk(id, { transaction: within, lock: within.LOCK.UPDATE });
    if (!customer) throw new RefusedCommand(404, 'There is no such customer.');
    if (customer.erasedOn) throw new RefusedCommand(409, 'What was known of this customer has been erased.');
    const {
      reference: _,
      createdOn: __,
      id: ___,
      version: ____,
      ...before
    } = await readCustomer(almanac, id, within);
    if (customer.version !== edit.version)
      throw new ConflictingEdit({ value: before, version: customer.version, changedBy: customer.changedBy });
    const { value } = edit;
    const setup = await settingsOf(almanac, 'customers', within);
    requirePostcode(value.postcode, value.country, '/value/postcode');
    if (value.shipping)
      requirePostcode(value.shipping.postcode, value.shipping.country, '/value/shipping/postcode');
    // One that was stored before it was looked at stays until it is changed.
    if (value.taxNumber !== before.taxNumber || value.country !== before.country)
      requireTaxNumber(value.taxNumber, value.country, '/value/taxNumber');
    const fields = ownFieldsOf(value.fields, setup, '/value/fields');
    await customer.update(
      {
        ...value,
        fields,
        country: value.country === '' ? null : value.country,
        groupId: await groupNamed(almanac, value.group, within),
        version: customer.version + 1,
        changedBy: askerNow().who,
      },
      { transaction: within },
    );
    if (value.email.toLowerCase() !== before.email.toLowerCase())
      await endLinks(almanac, id, 'letters go to another address now', within);
    const done = { did: 'changed a customer', subject: before.name, ...differenceOf(before, value) };
    await recordDone(almanac, done, within);
  });
  return readCustomer(almanac, id);
}
