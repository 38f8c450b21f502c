import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { askForMethod, noteAsked } from '../customers/askForMethod.ts';
import { insertContact, insertNote } from '../customers/contacts.ts';
import type { Customer } from '../customers/Customer.ts';
import { takeAhead } from '../customers/files.ts';
import { findMethod, type FoundMethod } from '../customers/findMethod.ts';
import type { MethodKind } from '../customers/methodMessages.ts';
import { shipsTo } from '../customers/places.ts';
import { keepMethod } from '../customers/keepMethod.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { sayCard } from '../notices/occasions.ts';
import { setArchivedWithin } from '../plans/archive.ts';
import { policyInForce } from '../policies/policies.ts';
import { settingsOf } from '../settings/settings.ts';
import { tellStaff } from '../staff/notices.ts';
import { acceptanceSchema, type enrolmentSchema } from '../subscriptions/messages.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { wakeForCard } from '../subscriptions/trials.ts';
import { accept } from './accept.ts';
import { keepReckoning, openReckoning } from './keptReckonings.ts';
import { customerOf } from './newCustomer.ts';
import {
  cardGivenFor,
  givenMethod,
  hasUsable,
  paymentKindOf,
  payingOf,
  requireKeptCard,
  type Acceptance,
} from './paying.ts';
import { refusedAt } from './refusedAt.ts';
import { duesOf, reckon, requireAsShown, type Reckoning } from './reckon.ts';

const AGREED: Readonly<Record<MethodKind, string>> = {
  card: 'The customer agreed by phone or in person that this card is charged for the subscription, on its dates.',
  'bank account':
    'The customer agreed by phone or in person that this bank account is debited for the subscription, on its dates.',
};

/** Who was enrolled, and for what. */
export interface Enrolled {
  readonly id: string;
  /** The subscriptions that began beside it. */
  readonly also?: readonly string[];
  readonly customerId: string;
}

/** Through whom somebody is enrolled for whom staff or a program speak. */
type Speaker = 'staff' | 'program';

/** Who takes something up by themselves, on a page of the business. */
export interface BySelf {
  /** The page, and the version of it that holds. */
  readonly page: { readonly id: string; readonly version: number };
  /** The policies that were agreed to, in the versions that were shown. */
  readonly policyIds: readonly string[];
  /** The very words by which the card or the bank account was given. */
  readonly agreedText: string;
  /** What the page asks of its customers, where that is not what Setup asks. */
  readonly asks: Parameters<typeof customerOf>[4];
}

/**
 * Enrols a customer: what is chosen is reckoned and accepted in one; all of it is written down or nothing.
 * @param mayStill refuses what must not be any more, as a part of it
 */
export async function enrolCustomer(
  almanac: Almanac,
  wanted: z.output<typeof enrolmentSchema>,
  channel: Speaker,
  mayStill?: (within: Transaction) => Promise<void>,
): Promise<Enrolled> {
  const card = await cardOf(almanac, wanted.rateId, wanted);
  return almanac.db.transaction(async (within) => {
    await mayStill?.(within);
    const on = await businessDateOf(almanac, within);
    const known = 'id' in wanted.customer ? wanted.customer.id : null;
    const group = 'id' in wanted.customer ? '' : wanted.customer.group;
    const usual = 'id' in wanted.customer ? null : shipsTo(wanted.customer);
    const reckoning = await reckon(almanac, wanted, { customerId: known, group, on, usual }, within);
    const first = await takeUp(almanac, { reckoning, reckoningId: null, wanted, card, on, channel }, within);
    const also: string[] = [];
    for (const [i, choice] of wanted.also.entries())
      also.push(
        await refusedAt(`/also/${i}`, () =>
          takeUpAlso(almanac, { wanted, choice, first, on, channel }, within),
        ),
      );
    return wanted.also.length === 0 ? first : { ...first, also };
  });
}

/** Begins what is chosen beside a first subscription: for the same customer, paid with the same, told of by itself. */
async function takeUpAlso(
  almanac: Almanac,
  of: {
    readonly wanted: z.output<typeof enrolmentSchema>;
    readonly choice: z.output<typeof enrolmentSchema>['also'][number];
    readonly first: Enrolled;
    readonly on: string;
    readonly channel: Speaker;
  },
  within: Transaction,
): Promise<string> {
  const { wanted, choice, first, on, channel } = of;
  const { id, customerId } = first;
  const { ownMethodId } = await Subscription.findByPk(id, { transaction: within, rejectOnEmpty: true });
  // What was given for the first is on file now; nobody is written to twice to ask for a method.
  const pays = {
    card: 'card',
    bank: 'card',
    mail: 'link',
    link: 'link',
    transfer: 'transfer',
    invoice: 'invoice',
  } as const;
  const acceptance = acceptanceSchema.parse({
    customer: { id: customerId },
    pays: pays[wanted.pays],
    ...(ownMethodId === null ? {} : { methodId: ownMethodId }),
    ...{ invoiceFields: wanted.invoiceFields, firstLetter: wanted.firstLetter },
  });
  const reckoning = await reckon(almanac, choice, { customerId, group: '', on }, within);
  const taken = { reckoning, reckoningId: null, wanted: acceptance, card: null, on, channel };
  return (await takeUp(almanac, taken, within)).id;
}

/** Accepts a reckoning that was made before, as it was made: no later price, tax or code changes it. */
export async function acceptReckoning(
  almanac: Almanac,
  id: string,
  wanted: Acceptance,
  channel: Speaker,
): Promise<Enrolled> {
  const rate = await almanac.db.row<{ id: string }>(
    'select rate_id::text as id from reckonings where id = $id',
    { id },
  );
  const card = rate && (await cardOf(almanac, rate.id, wanted));
  return almanac.db.transaction(async (within) => {
    const on = await businessDateOf(almanac, within);
    const kept = await openReckoning(almanac, id, on, within);
    const isForAnother = 'id' in wanted.customer && wanted.customer.id !== kept.customerId;
    if (kept.customerId !== null && (isForAnother || !('id' in wanted.customer)))
      throw new RefusedCommand(422, 'This reckoning was made for another customer.', '/customer');
    const shown = wanted.shown ?? [...kept.dues];
    const taken = {
      reckoning: kept.reckoning,
      reckoningId: id,
      wanted: { ...wanted, shown },
      card,
      on,
      channel,
    };
    return takeUp(almanac, taken, within);
  });
}

/** The card or the bank account of a token, checked with its gateway before anything is written; null where none is given. */
async function cardOf(almanac: Almanac, rateId: string, wanted: Acceptance): Promise<FoundMethod | null> {
  const given = givenMethod(wanted);
  return given && findMethod(almanac, given, given.at, cardGivenFor(rateId, wanted));
}

/** A reckoning that is taken up: by whom, how it is paid, and who says so. */
export interface Taken {
  readonly reckoning: Reckoning;
  /** The one that was kept; null: it is kept now, as it is accepted. */
  readonly reckoningId: string | null;
  readonly wanted: Acceptance;
  readonly card: FoundMethod | null;
  readonly on: string;
  readonly channel: Speaker | 'customer';
  /** Absent: somebody speaks for the customer. */
  readonly bySelf?: BySelf;
}

/** Writes down who takes up a reckoning, how they pay, the subscription with what was agreed, and who is told. */
export async function takeUp(almanac: Almanac, taken: Taken, within: Transaction): Promise<Enrolled> {
  const { reckoning, wanted, card, on, channel, bySelf } = taken;
  const { rate, plan, terms } = reckoning;
  const paying = payingOf(rate, wanted, terms);
  const invoiceFields = await invoiceFieldsOf(almanac, wanted.invoiceFields, within);
  const customer = await customerOf(almanac, wanted.customer, on, within, bySelf?.asks);
  const paidAs = await paymentKindOf(wanted, { customerId: customer.id }, within);
  const { country, region, taxExempt } = customer;
  const dues = await duesOf(almanac, reckoning, { country, region, taxExempt, paidAs }, within);
  requireAsShown(dues, wanted.shown, terms.currency);
  const { id: customerId } = customer;
  const reckoningId =
    taken.reckoningId ??
    (await keepReckoning(almanac, reckoning, { customerId, country, region, taxExempt, paidAs }, within)).id;
  const policy = await policyInForce(almanac, 'terms of service', on, within);
  const policyId = policy?.id ?? null;
  if (wanted.asksTerms && policyId === null)
    throw new RefusedCommand(
      422,
      'There are no terms of service to agree to: write them in Setup, Policies.',
      '/asksTerms',
    );
  const ownMethodId = card
    ? await keepCard(
        almanac,
        { customer, card, wanted, on, policyId, agreedText: bySelf?.agreedText },
        within,
      )
    : paying.needsCard
      ? await keptCard(customer, taken, within)
      : null;
  const { collects, withoutMethod } = paying;
  const [id = ''] = await accept(
    almanac,
    [
      {
        ...{ reckoning, reckoningId, customer, invoiceFields, reference: `new-${randomUUID()}` },
        paying: { collects, withoutMethod, ownMethodId },
        paidAs,
        firstWords: wanted.firstLetter ? wanted.firstWords : null,
        asksTerms: wanted.asksTerms,
      },
    ],
    {
      ...{ channel, on, policyId, by: bySelf ? customer.name : askerNow().who },
      ...(bySelf ? { page: bySelf.page, policyIds: bySelf.policyIds } : {}),
    },
    within,
  );
  await takeAhead(almanac, wanted.files, { customerId, subscriptionId: id }, within);
  for (const [i, contact] of wanted.contacts.entries())
    await refusedAt(`/contacts/${i}`, () => insertContact(almanac, { customerId, contact, on }, within));
  if (wanted.staffNote !== '')
    await insertNote(almanac, { customerId, subscriptionId: id, says: wanted.staffNote, on }, within);
  if (wanted.rateOnce) await setArchivedWithin(almanac, 'rate', rate.id, true, on, within);
  if (paying.isAsked) {
    if (await hasUsable(customer, on, within))
      throw new RefusedCommand(
        422,
        'There is a card on file that can be charged: none is asked for.',
        '/pays',
      );
    if (wanted.pays === 'mail') await askForMethod(almanac, customerId, on, within);
    else await noteAsked(customerId, on, within);
  }
  await tellStaff(
    almanac,
    {
      kind: 'enrolled',
      onceKey: `enrolled:${id}`,
      subject: `${customer.name} ${bySelf ? 'joined' : 'was enrolled'}: ${plan.name}`,
      says: `${customer.name} ${bySelf ? 'joined by themselves' : 'was enrolled'} for ${plan.name}, ${rate.name}, from ${sayDate(terms.starts)}.`,
      writtenOn: on,
    },
    within,
  );
  const { variantId, rateCardId } = reckoning;
  const quantity = 'lines' in terms ? (terms.lines[0]?.quantity ?? 1) : 1;
  const after = {
    ...{ plan: plan.name, rate: rate.name, starts: terms.starts, quantity, variantId, rateCardId, collects },
  };
  const did = bySelf ? 'joined on a sign-up page' : 'enrolled a customer';
  await recordDone(almanac, { did, subject: customer.name, after }, within);
  return { id, customerId };
}

/** Keeps a card that is given with its mandate, and wakes what waited for one; gives its id where it is the subscription's own. */
async function keepCard(
  almanac: Almanac,
  given: {
    readonly customer: Customer;
    readonly card: FoundMethod;
    readonly wanted: Acceptance;
    readonly on: string;
    readonly policyId: string | null;
    /** The customer's own words; absent: what they said to staff. */
    readonly agreedText: string | undefined;
  },
  within: Transaction,
): Promise<string | null> {
  const { customer, card, wanted, on, policyId, agreedText = AGREED[card.kind] } = given;
  const channel = given.agreedText !== undefined ? 'customer' : wanted.read ? 'reader' : 'staff';
  const ofNew = !('id' in wanted.customer);
  const mandate = { channel, agreedText, ofNew, on, policyId, role: wanted.cardRole } as const;
  const method = await keepMethod(almanac, customer.id, card, mandate, within);
  if (!ofNew) await wakeForCard(almanac, customer.id, on, within);
  await tellStaff(
    almanac,
    {
      kind: 'mandate granted',
      onceKey: `mandate:${method.id}:${on}`,
      subject: `${customer.name} granted a mandate`,
      says: `${customer.name} granted a mandate for ${sayCard(card)}.`,
      writtenOn: on,
    },
    within,
  );
  return method.role === 'own' ? method.id : null;
}

/** The card on file that was named, where it is not the one for everything; refused where none can be charged. */
async function keptCard(
  customer: Customer,
  { reckoning, wanted, on }: Taken,
  within: Transaction,
): Promise<string | null> {
  const { methodId } = wanted;
  const kept = await requireKeptCard(customer, { rate: reckoning.rate, on, methodId }, within);
  return methodId !== undefined && kept.role !== 'primary' ? kept.id : null;
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
