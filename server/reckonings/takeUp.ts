import { randomUUID } from 'node:crypto';
import type { Transaction } from 'sequelize';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow, type Asker } from '../audit/asker.ts';
import { recordAll } from '../audit/audit.ts';
import { askForMethod, noteAsked } from '../customers/askForMethod.ts';
import { insertContact, insertNote } from '../customers/contacts.ts';
import type { Customer } from '../customers/Customer.ts';
import { takeAhead } from '../customers/files.ts';
import type { FoundMethod } from '../customers/findMethod.ts';
import { keepFirstMethods, keepMethod } from '../customers/keepMethod.ts';
import type { MethodKind } from '../customers/methodMessages.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { sayCard } from '../notices/occasions.ts';
import { setArchivedWithin } from '../plans/archive.ts';
import { policyInForce } from '../policies/policies.ts';
import { settingsOf } from '../settings/settings.ts';
import { tellStaffAll, type StaffNotice } from '../staff/notices.ts';
import { wakeForCard } from '../subscriptions/trials.ts';
import { accept, type Accepted } from './accept.ts';
import type { Agreement } from './agreements.sql.ts';
import { keepReckonings } from './keptReckonings.ts';
import { customersOf, type AskedOfNew } from './newCustomer.ts';
import { hasUsable, paymentKindOf, payingOf, requireKeptCard, type Acceptance } from './paying.ts';
import { refusedAt } from './refusedAt.ts';
import { duesOf, requireAsShown, type Reckoning } from './reckon.ts';

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
export type Speaker = 'staff' | 'program';

/** Who takes something up by themselves, on a page of the business. */
export interface BySelf {
  /** The page, and the version of it that holds. */
  readonly page: { readonly id: string; readonly version: number };
  /** The policies that were agreed to, in the versions that were shown. */
  readonly policyIds: readonly string[];
  /** The very words by which the card or the bank account was given. */
  readonly agreedText: string;
  /** What the page asks of its customers, where that is not what Setup asks. */
  readonly asks: AskedOfNew;
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
  /** Who asks for it, where several are taken up at once; absent: whoever asks now. */
  readonly asker?: Asker;
}

/** Writes down who takes up a reckoning, how they pay, the subscription with what was agreed, and who is told. */
export async function takeUp(almanac: Almanac, taken: Taken, within: Transaction): Promise<Enrolled> {
  const [enrolled] = await takeUpAll(almanac, [taken], within);
  if (!enrolled) throw new Error('Nobody was enrolled.');
  return enrolled;
}

/**
 * The same of several on one day, in a fixed number of statements where all of them are new and give what they pay with.
 * Whatever is wrong with one is refused for all: whoever asks does each alone then.
 */
export async function takeUpAll(
  almanac: Almanac,
  all: readonly Taken[],
  within: Transaction,
): Promise<Enrolled[]> {
  if (all.length === 0) return [];
  const on = all[0]?.on ?? '';
  const begun = [];
  for (const taken of all) {
    const { reckoning, wanted } = taken;
    const paying = payingOf(reckoning.rate, wanted, reckoning.terms);
    begun.push({
      ...taken,
      paying,
      invoiceFields: await invoiceFieldsOf(almanac, wanted.invoiceFields, within),
    });
  }
  const customers = await customersOf(
    almanac,
    all.map(({ wanted, bySelf }) => ({ who: wanted.customer, asked: bySelf?.asks })),
    on,
    within,
  );
  const held: Held[] = [];
  for (const [i, one] of begun.entries()) {
    const customer = customers[i];
    if (!customer) throw new Error('A customer is missing.');
    const { reckoning, wanted } = one;
    const paidAs = await paymentKindOf(wanted, { customerId: customer.id }, within);
    const { country, region, taxExempt } = customer;
    const who = { country, region, taxExempt, paidAs };
    const dues = await duesOf(almanac, reckoning, who, within);
    requireAsShown(dues, wanted.shown, reckoning.terms.currency);
    held.push({ ...one, customer, paidAs, who, dues });
  }
  const reckoningIds = await keepHeld(almanac, held, within);
  const policy = await policyInForce(almanac, 'terms of service', on, within);
  const policyId = policy?.id ?? null;
  if (policyId === null && all.some(({ wanted }) => wanted.asksTerms))
    throw new RefusedCommand(
      422,
      'There are no terms of service to agree to: write them in Setup, Policies.',
      '/asksTerms',
    );
  const notices: StaffNotice[] = [];
  const methodIds = await keepCards(almanac, { held, policyId, notices }, within);
  const ids = await accept(
    almanac,
    held.map((one, i) => acceptedOf(one, reckoningIds[i] ?? null, methodIds[i] ?? null, policyId)),
    null,
    within,
  );
  const enrolled = held.map(({ customer }, i) => ({ id: ids[i] ?? '', customerId: customer.id }));
  for (const [i, one] of held.entries()) {
    await takeBeside(almanac, one, enrolled[i]?.id ?? '', within);
    notices.push(noticeOf(one, enrolled[i]?.id ?? ''));
  }
  await tellStaffAll(almanac, notices, within);
  await recordAll(
    almanac,
    held.map((one) => ({ done: doneOf(one), asker: one.asker ?? askerNow() })),
    within,
  );
  return enrolled;
}

/** Somebody who takes up a reckoning, once it is known who they are and what it comes to for them. */
interface Held extends Taken {
  readonly paying: ReturnType<typeof payingOf>;
  readonly invoiceFields: readonly InvoiceField[];
  readonly customer: Customer;
  readonly paidAs: Awaited<ReturnType<typeof paymentKindOf>>;
  readonly who: Pick<Customer, 'country' | 'region' | 'taxExempt'> & { readonly paidAs: Held['paidAs'] };
  readonly dues: Awaited<ReturnType<typeof duesOf>>;
}

/** Keeps the reckonings that were not kept before; gives the ids of all, in their order. */
async function keepHeld(almanac: Almanac, held: readonly Held[], within: Transaction): Promise<string[]> {
  const fresh = held.filter(({ reckoningId }) => reckoningId === null);
  const kept = await keepReckonings(
    almanac,
    fresh.map(({ reckoning, who, customer, dues, asker }) => ({
      ...{ reckoning, dues, madeBy: (asker ?? askerNow()).who },
      who: { ...who, customerId: customer.id },
    })),
    within,
  );
  return held.map((one) => one.reckoningId ?? kept[fresh.indexOf(one)]?.id ?? '');
}

const isNew = ({ wanted }: Held) => !('id' in wanted.customer);

/** What is paid with: a method that is given now is kept with its mandate. Gives those that are a subscription's own. */
async function keepCards(
  almanac: Almanac,
  of: { readonly held: readonly Held[]; readonly policyId: string | null; readonly notices: StaffNotice[] },
  within: Transaction,
): Promise<(string | null)[]> {
  const { held, policyId, notices } = of;
  const given = held.filter((one): one is Held & { card: FoundMethod } => one.card !== null);
  const fresh = given.filter(isNew);
  const mandateOf = ({ bySelf, wanted, card, on, asker }: Held & { card: FoundMethod }) => ({
    channel: bySelf ? ('customer' as const) : wanted.read ? ('reader' as const) : ('staff' as const),
    agreedText: bySelf?.agreedText ?? AGREED[card.kind],
    ...{ on, policyId, role: wanted.cardRole, asker },
  });
  const first = await keepFirstMethods(
    fresh.map((one) => ({ customerId: one.customer.id, found: one.card, given: mandateOf(one) })),
    within,
  );
  const own: (string | null)[] = [];
  for (const one of held) {
    const { customer, on, card } = one;
    if (card === null) {
      own.push(one.paying.needsCard ? await keptCard(one, within) : null);
      continue;
    }
    let method = first[fresh.findIndex((other) => other.customer === customer)];
    if (!method) {
      method = await keepMethod(almanac, customer.id, card, mandateOf({ ...one, card }), within);
      await wakeForCard(almanac, customer.id, on, within);
    }
    own.push(method.role === 'own' ? method.id : null);
    notices.push({
      kind: 'mandate granted',
      onceKey: `mandate:${method.id}:${on}`,
      subject: `${customer.name} granted a mandate`,
      says: `${customer.name} granted a mandate for ${sayCard(card)}.`,
      writtenOn: on,
    });
  }
  return own;
}

function acceptedOf(
  one: Held,
  reckoningId: string | null,
  ownMethodId: string | null,
  policyId: string | null,
): Accepted {
  const { reckoning, customer, invoiceFields, paying, paidAs, wanted, channel, on, bySelf, asker } = one;
  const { collects, withoutMethod } = paying;
  const { who, address, agent } = asker ?? askerNow();
  const agreement: Agreement = {
    ...{ channel, on, policyId, by: bySelf ? customer.name : who, address, agent },
    ...(bySelf ? { page: bySelf.page, policyIds: bySelf.policyIds } : {}),
  };
  return {
    ...{ reckoning, reckoningId, customer, invoiceFields, reference: `new-${randomUUID()}`, agreement },
    paying: { collects, withoutMethod, ownMethodId },
    paidAs,
    firstWords: wanted.firstLetter ? wanted.firstWords : null,
    asksTerms: wanted.asksTerms,
  };
}

/** What comes with some: documents, contacts, a note, a rate made for them alone, and asking for a method. */
async function takeBeside(almanac: Almanac, one: Held, id: string, within: Transaction): Promise<void> {
  const { wanted, customer, on, reckoning, paying } = one;
  const { id: customerId } = customer;
  await takeAhead(almanac, wanted.files, { customerId, subscriptionId: id }, within);
  for (const [i, contact] of wanted.contacts.entries())
    await refusedAt(`/contacts/${i}`, () => insertContact(almanac, { customerId, contact, on }, within));
  if (wanted.staffNote !== '')
    await insertNote(almanac, { customerId, subscriptionId: id, says: wanted.staffNote, on }, within);
  if (wanted.rateOnce) await setArchivedWithin(almanac, 'rate', reckoning.rate.id, true, on, within);
  if (!paying.isAsked) return;
  if (await hasUsable(customer, on, within))
    throw new RefusedCommand(422, 'There is a card on file that can be charged: none is asked for.', '/pays');
  if (wanted.pays === 'mail') await askForMethod(almanac, customerId, on, within);
  else await noteAsked(customerId, on, within);
}

function noticeOf({ customer, reckoning, bySelf, on }: Held, id: string): StaffNotice {
  const { plan, rate, terms } = reckoning;
  return {
    kind: 'enrolled',
    onceKey: `enrolled:${id}`,
    subject: `${customer.name} ${bySelf ? 'joined' : 'was enrolled'}: ${plan.name}`,
    says: `${customer.name} ${bySelf ? 'joined by themselves' : 'was enrolled'} for ${plan.name}, ${rate.name}, from ${sayDate(terms.starts)}.`,
    writtenOn: on,
  };
}

function doneOf({ customer, reckoning, bySelf, paying }: Held) {
  const { plan, rate, terms, variantId, rateCardId } = reckoning;
  const quantity = 'lines' in terms ? (terms.lines[0]?.quantity ?? 1) : 1;
  const after = {
    ...{ plan: plan.name, rate: rate.name, starts: terms.starts, quantity, variantId, rateCardId },
    collects: paying.collects,
  };
  return { did: bySelf ? 'joined on a sign-up page' : 'enrolled a customer', subject: customer.name, after };
}

/** The card on file that was named, where it is not the one for everything; refused where none can be charged. */
async function keptCard(
  { customer, reckoning, wanted, on }: Held,
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
