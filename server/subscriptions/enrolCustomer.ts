import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { requireTerms } from '../../core/terms/check.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import { sayCountry } from '../../core/words/countries.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { findCard } from '../customers/findCard.ts';
import { replaceMethod } from '../customers/replaceMethod.ts';
import { discountOfCode, useCode } from '../discounts/discounts.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { currentMethod } from '../payments/currentMethod.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { faultsOfTerms, termsFromRate } from '../plans/rateTerms.ts';
import { policyInForce } from '../policies/policies.ts';
import { CONTACT_FIELDS, type ContactField } from '../settings/messages.ts';
import { settingsOf } from '../settings/settings.ts';
import { tellStaff } from '../staff/notices.ts';
import { enrol } from './enrol.ts';
import type { enrolmentSchema } from './messages.ts';

const AGREED =
  'The customer agreed by phone or in person that this card is charged for the subscription, on its dates.';

type Wanted = z.output<typeof enrolmentSchema>;
type NewCustomer = Extract<Wanted['customer'], { name: string }>;

/** Enrols a customer: who they are, the card and the subscription are written down together or not at all. */
export async function enrolCustomer(
  almanac: Almanac,
  wanted: Wanted,
): Promise<{ id: string; customerId: string }> {
  const businessDate = await businessDateOf(almanac);
  if (wanted.starts < businessDate) {
    throw new RefusedCommand(
      422,
      `Start on ${businessDate} or later: earlier periods would all be charged at once.`,
      '/starts',
    );
  }
  const card =
    wanted.cardToken === undefined ? null : await findCard(almanac, wanted.cardToken, '/cardToken');
  return almanac.db.transaction(async (within) => {
    const rate = await Rate.findByPk(wanted.rateId, { transaction: within });
    if (!rate) throw new RefusedCommand(422, 'Choose a plan and a rate.', '/rateId');
    const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
    if (plan.archivedOn !== null || rate.archivedOn !== null)
      throw new RefusedCommand(
        422,
        'This rate is archived and not sold any more. Choose another.',
        '/rateId',
      );
    const codes = await codesOf(almanac, wanted.codes, rate, businessDate, within);
    const plain = termsFromRate(rate.terms, wanted);
    const chosen =
      codes.length === 0
        ? plain
        : { ...plain, discounts: [...(plain.discounts ?? []), ...codes.map(({ discount }) => discount)] };
    const faults = faultsOfTerms(chosen);
    if (faults.length > 0) throw new RefusedTerms(faults);
    const terms = requireTerms(chosen);
    const invoiceFields = await invoiceFieldsOf(almanac, wanted.invoiceFields, within);
    const { customer: who } = wanted;
    const customer =
      'id' in who
        ? await Customer.findByPk(who.id, { transaction: within })
        : await makeCustomer(almanac, who, businessDate, within);
    if (!customer) throw new RefusedCommand(422, 'Choose a customer.', '/customer');
    if (card) {
      const policy = await policyInForce(almanac, 'terms of service', businessDate, within);
      const given = {
        channel: 'staff',
        agreedText: AGREED,
        on: businessDate,
        policyId: policy?.id ?? null,
      } as const;
      const method = await replaceMethod(customer.id, card, given, within);
      await tellStaff(
        almanac,
        {
          kind: 'mandate granted',
          onceKey: `mandate:${method.id}:${businessDate}`,
          subject: `${customer.name} granted a mandate`,
          says: `${customer.name} granted a mandate for ${card.network} ending ${card.lastFour}.`,
          writtenOn: businessDate,
        },
        within,
      );
    } else if ((await currentMethod(customer.id, within))?.state !== 'usable') {
      throw new RefusedCommand(422, 'There is no card to charge: enter one.', '/cardToken');
    }
    const subscription = await enrol(
      almanac,
      { reference: `new-${randomUUID()}`, customer, rate, terms, enrolledOn: businessDate, invoiceFields },
      within,
    );
    for (const [i, { discountId, codeId }] of codes.entries()) {
      const use = {
        discountId,
        codeId,
        customerId: customer.id,
        subscriptionId: subscription.id,
        on: businessDate,
      };
      await useCode(almanac, use, `/codes/${i}`, within);
    }
    await tellStaff(
      almanac,
      {
        kind: 'enrolled',
        onceKey: `enrolled:${subscription.id}`,
        subject: `${customer.name} was enrolled: ${plan.name}`,
        says: `${customer.name} was enrolled for ${plan.name}, ${rate.name}, from ${sayDate(terms.starts)}.`,
        writtenOn: businessDate,
      },
      within,
    );
    await recordDone(
      almanac,
      {
        did: 'enrolled a customer',
        subject: customer.name,
        after: { plan: plan.name, rate: rate.name, starts: terms.starts, quantity: wanted.quantity },
      },
      within,
    );
    return { id: subscription.id, customerId: customer.id };
  });
}

/** What the codes typed stand for; more than one only where each allows it. */
async function codesOf(
  almanac: Almanac,
  codes: readonly string[],
  rate: Rate,
  on: string,
  within: Transaction,
) {
  const use = { planId: rate.planId, currency: rate.terms.currency, on };
  const found: Awaited<ReturnType<typeof discountOfCode>>[] = [];
  for (const [i, code] of codes.entries())
    found.push(await discountOfCode(almanac, code, use, `/codes/${i}`, within));
  const twice = found.findIndex(({ discountId }, i) =>
    found.slice(0, i).some((one) => one.discountId === discountId),
  );
  if (twice >= 0) throw new RefusedCommand(422, 'This is the same discount once more.', `/codes/${twice}`);
  const alone = found.findIndex(({ stacks }) => !stacks);
  if (found.length > 1 && alone >= 0)
    throw new RefusedCommand(422, 'This code cannot be used beside others.', `/codes/${alone}`);
  return found;
}

/** Writes down a new customer, with what Setup asks of one. */
async function makeCustomer(
  almanac: Almanac,
  who: NewCustomer,
  businessDate: string,
  within: Transaction,
): Promise<Customer> {
  const { ask, serves } = await settingsOf(almanac, 'customers', within);
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
  const { tax_number: taxNumber, tax_exempt: taxExempt, country, ...facts } = who;
  return Customer.create(
    {
      ...facts,
      taxNumber,
      taxExempt,
      country: country === '' ? null : country,
      reference: `new-${randomUUID()}`,
      createdOn: businessDate,
    },
    { transaction: within },
  );
}

/** The business's own invoice fields with what was given for them; one that is required and missing is refused. */
async function invoiceFieldsOf(
  almanac: Almanac,
  given: Readonly<Record<string, string>>,
  within: Transaction,
): Promise<InvoiceField[]> {
  const { fields } = await settingsOf(almanac, 'invoicing', within);
  const unknown = Object.keys(given).find((label) => !fields.some((field) => field.label === label));
  if (unknown !== undefined)
    throw new RefusedCommand(422, `Invoices have no field "${unknown}" any more.`, '/invoiceFields');
  for (const { label, required } of fields) {
    if (required && !given[label])
      throw new RefusedCommand(
        422,
        `${label}: this is asked for every subscription.`,
        `/invoiceFields/${label}`,
      );
  }
  return fields.flatMap(({ label }) => (given[label] ? [{ label, value: given[label] }] : []));
}
