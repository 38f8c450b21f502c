import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { sayCountry } from '../../core/words/countries.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { askForMethod, noteAsked } from '../customers/askForMethod.ts';
import { Customer } from '../customers/Customer.ts';
import { findCard } from '../customers/findCard.ts';
import { groupNamed } from '../customers/groups.ts';
import { keepMethod } from '../customers/keepMethod.ts';
import { PaymentMethod } from '../customers/PaymentMethod.ts';
import { useCode } from '../discounts/discounts.ts';
import { serves } from '../gateways/cardUse.ts';
import { GatewayAccount } from '../gateways/GatewayAccount.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { Plan } from '../plans/Plan.ts';
import { optionsOf } from '../plans/plans.ts';
import { Rate } from '../plans/Rate.ts';
import { policyInForce } from '../policies/policies.ts';
import { CONTACT_FIELDS, type ContactField } from '../settings/messages.ts';
import { settingsOf } from '../settings/settings.ts';
import { tellStaff } from '../staff/notices.ts';
import { choose } from './choose.ts';
import { enrol } from './enrol.ts';
import type { enrolmentSchema } from './messages.ts';
import { wakeForCard } from './trials.ts';

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
    wanted.cardToken === undefined
      ? null
      : await findCard(almanac, wanted.cardToken, '/cardToken', cardGivenFor(wanted));
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
    const { customer: who } = wanted;
    const of = { plan, rate, customerId: 'id' in who ? who.id : null, on: businessDate };
    const { terms, codes, answers, extras, variantId, rateCardId } = await choose(
      almanac,
      wanted,
      of,
      within,
    );
    const paying = payingOf(rate, wanted);
    const invoiceFields = await invoiceFieldsOf(almanac, wanted.invoiceFields, within);
    const customer =
      'id' in who
        ? await Customer.findByPk(who.id, { transaction: within })
        : await makeCustomer(almanac, who, businessDate, within);
    if (!customer) throw new RefusedCommand(422, 'Choose a customer.', '/customer');
    let ownMethodId: string | null = null;
    if (card) {
      const policy = await policyInForce(almanac, 'terms of service', businessDate, within);
      const given = {
        channel: wanted.read ? 'reader' : 'staff',
        agreedText: AGREED,
        role: wanted.cardRole,
        on: businessDate,
        policyId: policy?.id ?? null,
      } as const;
      const method = await keepMethod(almanac, customer.id, card, given, within);
      if (method.role === 'own') ownMethodId = method.id;
      await wakeForCard(almanac, customer.id, businessDate, within);
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
    } else if (paying.needsCard) {
      const kept = await requireKeptCard(
        customer,
        { rate, on: businessDate, methodId: wanted.methodId },
        within,
      );
      if (wanted.methodId !== undefined && kept.role !== 'primary') ownMethodId = kept.id;
    }
    const subscription = await enrol(
      almanac,
      {
        ...{
          reference: `new-${randomUUID()}`,
          customer,
          rate,
          terms,
          enrolledOn: businessDate,
          invoiceFields,
        },
        facts: {
          ...{ variantId, rateCardId, extras: [...extras], answers: [...answers] },
          ...{ collects: paying.collects, withoutMethod: paying.withoutMethod, ownMethodId },
        },
      },
      within,
    );
    if (paying.isAsked) {
      if (await hasUsable(customer, businessDate, within))
        throw new RefusedCommand(
          422,
          'There is a card on file that can be charged: none is asked for.',
          '/pays',
        );
      if (wanted.pays === 'mail') await askForMethod(almanac, customer.id, businessDate, within);
      else await noteAsked(customer.id, businessDate, within);
    }
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
        after: {
          ...{ plan: plan.name, rate: rate.name, starts: terms.starts, quantity: wanted.quantity },
          ...{ variantId, rateCardId, collects: paying.collects },
        },
      },
      within,
    );
    return { id: subscription.id, customerId: customer.id };
  });
}

/**
 * How a subscription is paid: with a card that is charged by itself or waits for its holder, or by invoice. A trial
 * may start without a card where the rate says what becomes of it at its end; anything may where the card is asked for.
 */
function payingOf(rate: Rate, { pays, cardToken }: Wanted) {
  const { methods, withoutMethod } = optionsOf(rate);
  if (!methods.includes(pays === 'invoice' ? 'invoice' : 'card')) {
    const says = pays === 'invoice' ? 'This rate is not paid by invoice.' : 'This rate is paid by invoice.';
    throw new RefusedCommand(422, says, '/pays');
  }
  const isAsked = (pays === 'mail' || pays === 'link') && cardToken === undefined;
  const waits = 'trial' in rate.terms && withoutMethod !== 'needed' && cardToken === undefined;
  if (pays === 'invoice')
    return { collects: 'by hand' as const, needsCard: false, withoutMethod: null, isAsked: false };
  const without = waits ? withoutMethod : isAsked ? ('wait' as const) : null;
  return { collects: 'automatic' as const, needsCard: without === null, withoutMethod: without, isAsked };
}

/** What the card of an enrolment is for: the rate, and what the customer has already. */
function cardGivenFor({ rateId, customer, cardRole, read }: Wanted) {
  const forOthers = 'id' in customer && cardRole !== 'own';
  return {
    ...{ rateId, forAll: true, customerId: forOthers ? customer.id : undefined },
    channel: read ? ('reader' as const) : ('staff' as const),
  };
}

/** The card on file that a rate is charged to, the one that is named or the one in use; a refusal where it cannot be. */
async function requireKeptCard(
  customer: Customer,
  { rate, on, methodId }: { readonly rate: Rate; readonly on: string; readonly methodId: string | undefined },
  within: Transaction,
): Promise<PaymentMethod> {
  const kept =
    methodId === undefined
      ? await methodInUse({ customerId: customer.id, ownMethodId: null }, within)
      : await PaymentMethod.findOne({
          where: { id: methodId, customerId: customer.id },
          transaction: within,
        });
  if (kept?.state !== 'usable')
    throw new RefusedCommand(422, 'There is no card to charge: enter one.', '/cardToken');
  if (hasExpired(kept, on))
    throw new RefusedCommand(422, 'The card on file has expired: enter another one.', '/cardToken');
  const account = await GatewayAccount.findByPk(kept.gatewayAccountId, {
    transaction: within,
    rejectOnEmpty: true,
  });
  const { currency } = rate.terms;
  if (!serves(account, { currency, gateways: optionsOf(rate).gateways }))
    throw new RefusedCommand(
      422,
      `The card on file is kept at ${account.name}, which cannot be charged for this rate: enter a card anew.`,
      '/cardToken',
    );
  return kept;
}

/** Whether a customer has a card that can be charged on a day. */
async function hasUsable(customer: Customer, on: string, within: Transaction): Promise<boolean> {
  const kept = await methodInUse({ customerId: customer.id, ownMethodId: null }, within);
  return kept?.state === 'usable' && !hasExpired(kept, on);
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
  if (!who.another) await requireNewAddress(almanac, who.email, within);
  const { tax_number: taxNumber, tax_exempt: taxExempt, country, group, another: _, ...facts } = who;
  return Customer.create(
    {
      ...facts,
      taxNumber,
      taxExempt,
      country: country === '' ? null : country,
      groupId: await groupNamed(almanac, group, within),
      reference: `new-${randomUUID()}`,
      createdOn: businessDate,
    },
    { transaction: within },
  );
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
