import type { Transaction } from 'sequelize';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { toDay, type Day } from '../../core/dates/day.ts';
import type { Payment } from '../../core/listing/payment.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { withoutCredit, type WalkPosition } from '../../core/listing/walkPosition.ts';
import type { Almanac } from '../almanac.ts';
import { sayCountry } from '../../core/words/countries.ts';
import { sayPlace } from '../customers/placeMessages.ts';
import { askToPay } from '../invoices/askToPay.ts';
import { foreseenOf } from '../forecast/foresee.ts';
import { storeCharges } from '../forecast/foresight.sql.ts';
import type { InvoiceParties } from '../invoices/invoiceParts.ts';
import { taxedAtOnce, wholeOf } from '../invoices/wholeOf.ts';
import type { InvoiceToWrite } from '../invoices/drawUp.ts';
import { drawUpInvoices, writeInvoices } from '../invoices/writeInvoices.ts';
import { settingsOf } from '../settings/settings.ts';
import { lockDue, readDue, writeReached, type DueSubscription, type Reached } from './due.sql.ts';
import { issueDay } from '../../core/listing/issueDay.ts';
import { loadLaw } from './law.ts';
import { standsOn } from './stand.ts';
import { nextWake } from './standing.ts';
import { tellOfStart } from './tellOfStart.ts';

/**
 * Brings subscriptions up to a business day: they start, their trials end, they pause or resume, and every payment whose
 * boundary has come is invoiced. One transaction in a fixed number of statements; done again for the same day it does
 * nothing, because the place of each walk moves on with its invoices.
 * @param ids any number of subscriptions; their invoices are numbered in the order of enrolment
 * @param beforeNumbers waited for once everything is computed: whoever must have their numbers first has taken them then
 */
export function invoiceDue(
  almanac: Almanac,
  ids: readonly string[],
  businessDate: string,
  beforeNumbers: () => Promise<void> = () => Promise.resolve(),
): Promise<void> {
  return almanac.db.transaction((within) =>
    invoiceDueWithin(almanac, ids, businessDate, within, { beforeNumbers }),
  );
}

/** An invoice of a boundary that the walk comes to again. */
export interface StandingInvoice {
  readonly id: string;
  readonly kind: string;
  readonly from: string;
}

/**
 * {@link invoiceDue} in a transaction of the caller.
 * @param stands invoices of the one subscription that are issued already: their boundaries are passed over
 */
export async function invoiceDueWithin(
  almanac: Almanac,
  ids: readonly string[],
  businessDate: string,
  within: Transaction,
  {
    stands = [],
    beforeNumbers = () => Promise.resolve(),
  }: {
    readonly stands?: readonly StandingInvoice[];
    readonly beforeNumbers?: () => Promise<void>;
  } = {},
): Promise<void> {
  const due = await lockDue(almanac, ids, businessDate, within);
  if (due.length === 0) return;
  const law = await loadLaw(almanac, within);
  const seller = await sellerOf(almanac, within);
  const computed = due.map((subscription) => {
    const terms = law.compile(subscription);
    const reached = compute(subscription, terms, businessDate, stands);
    const parties = partiesOf(seller, subscription);
    const invoices = reached.invoices.map((invoice) => toWrite(subscription, invoice, parties));
    const stand = standing({ subscription, terms, reached }, businessDate);
    return { subscription, terms, reached, invoices, stand };
  });
  const asked = computed.flatMap(({ invoices }) => invoices);
  const drawnUp = await drawUpInvoices(almanac, asked, businessDate, within);
  const stand = computed.map((one) => one.stand);
  await writeReached(almanac, stand, within);
  await storeCharges(almanac, stand, within);
  for (const { id, walkBefore } of computed.flatMap(({ reached }) => reached.passed))
    await almanac.db.rows(
      'update invoices set walk_before = $walkBefore::jsonb where id = $id',
      { id, walkBefore: JSON.stringify(walkBefore) },
      within,
    );
  await beforeNumbers();
  const written = await writeInvoices(almanac, drawnUp, businessDate, within);
  const invoiceOf = new Map(drawnUp.invoices.map((invoice, i) => [invoice, written[i]]));
  for (const { subscription, terms, invoices } of computed) {
    for (const one of invoices) {
      const invoice = invoiceOf.get(one);
      if (invoice && invoice.due > 0n && subscription.collects === 'by hand')
        await askToPay(almanac, subscription, { invoice, asked: one }, businessDate, within);
    }
    if (starts(subscription, businessDate))
      await tellOfStart(almanac, subscription, terms, businessDate, within);
  }
}

/**
 * The next invoice of a subscription as it would be now, with what the law and Setup say today: nothing is written of it. Null:
 * nothing more is invoiced.
 */
export async function nextInvoice(almanac: Almanac, id: string): Promise<InvoiceToWrite | null> {
  const subscription = await readDue(almanac, id);
  if (subscription === null || subscription.state === 'lapsed') return null;
  const terms = (await loadLaw(almanac)).compile(subscription);
  const asked = subscription.invoicing === 'whole' ? wholeInvoice(subscription, terms) : null;
  const next = asked ?? nextPayment(subscription, terms);
  return next && toWrite(subscription, next, partiesOf(await sellerOf(almanac), subscription));
}

/** The next payment that charges something. */
function nextPayment(
  { walk: reached, invoicing }: DueSubscription,
  terms: CompiledTerms,
): Computed['invoices'][number] | null {
  if (invoicing === 'whole') return null;
  const walk = new PaymentWalk(terms, reached ?? undefined);
  let next = walk.next();
  // A change that gives back is a credit note, and what is free is no invoice to look at.
  for (let n = 0; n < MOST_LOOKED_AT && next !== null && next.money.total <= 0n; n += 1) next = walk.next();
  return next && { payment: next, dues: [], lawTaxes: lawTaxesOn(terms, next.from), walkBefore: null };
}

/** So many payments without a charge are passed over in looking for the next that has one. */
const MOST_LOOKED_AT = 120;

/** What is to be invoiced, how far that brings a subscription, and the day on which there is more to invoice. */
interface Computed {
  readonly invoices: readonly Pick<InvoiceToWrite, 'payment' | 'dues' | 'lawTaxes' | 'walkBefore'>[];
  readonly walk: WalkPosition | null;
  readonly next: Day | null;
  /** Of invoices that stand: the place of the walk before them as it is now. */
  readonly passed: readonly { readonly id: string; readonly walkBefore: WalkPosition }[];
}

function compute(
  subscription: DueSubscription,
  terms: CompiledTerms,
  businessDate: string,
  stands: readonly StandingInvoice[],
): Computed {
  const today = toDay(businessDate);
  return subscription.invoicing === 'whole'
    ? { ...computeWhole(subscription, terms, today), passed: [] }
    : computeEach(subscription, terms, today, stands);
}

/** Every payment whose boundary has come. */
function computeEach(
  subscription: DueSubscription,
  terms: CompiledTerms,
  today: Day,
  stands: readonly StandingInvoice[],
): Computed {
  const dayOf = issueDaysOf(subscription);
  const walk = new PaymentWalk(terms, subscription.walk ?? undefined);
  // Until it starts, nothing has been walked of it: its place is that of its first invoice.
  let reached = today < toDay(subscription.startsOn) ? subscription.walk : walk.position();
  const invoices: Computed['invoices'][number][] = [];
  const passed: Computed['passed'][number][] = [];
  const standing = ({ kind, from }: Payment) =>
    stands.find((one) => one.kind === kind && toDay(one.from) === from);
  let next: Payment | null;
  for (next = walk.next(); next !== null; next = walk.next()) {
    const stood = standing(next);
    if (!stood && dayOf(next) > today) break;
    const before = reached && withoutCredit(reached);
    const isEarly = today < issueDay(next, { ...subscription, issueBefore: 0 });
    if (!stood)
      invoices.push({
        ...{ payment: next, dues: [], lawTaxes: lawTaxesOn(terms, next.from) },
        walkBefore: isEarly ? before : null,
      });
    else if (before) passed.push({ id: stood.id, walkBefore: before });
    reached = walk.position();
  }
  return { invoices, walk: reached && withoutCredit(reached), next: next && dayOf(next), passed };
}

/** The taxes that the law asks for on a day: of most lines, and of each that is taxed apart. */
function lawTaxesOn({ taxOn, taxedApart = [] }: CompiledTerms, day: Day): InvoiceToWrite['lawTaxes'] {
  return {
    most: taxOn?.(day) ?? null,
    apart: new Map(taxedApart.map((line) => [line, taxOn?.(day, line) ?? null])),
  };
}

/** The day on which each payment is invoiced. While a trial may still end without a card, nothing after it is before its time. */
function issueDaysOf(subscription: DueSubscription): (payment: Payment) => Day {
  const { withoutMethod, trialEndsOn, methodState } = subscription;
  const usual = (payment: Payment) => issueDay(payment, subscription);
  if (withoutMethod === null || trialEndsOn === null || methodState === 'usable') return usual;
  const trialEnds = toDay(trialEndsOn);
  return (payment) => (payment.from >= trialEnds ? payment.from : usual(payment));
}

/**
 * The whole of a fixed term on the day of its first payment. The tax is that of this day for all of it: what is invoiced
 * is taxed as it was then.
 */
function computeWhole(
  subscription: DueSubscription,
  terms: CompiledTerms,
  today: Day,
): Omit<Computed, 'passed'> {
  if (subscription.walk !== null) return { invoices: [], walk: subscription.walk, next: null };
  const begins = new PaymentWalk(terms).next()?.from ?? null;
  if (begins === null || begins > today) return { invoices: [], walk: null, next: begins };
  const { invoice, walk } = wholeTerm(terms, begins);
  return { invoices: invoice ? [invoice] : [], walk: withoutCredit(walk.position()), next: null };
}

/** All payments of a fixed term as one invoice, and the walk through them. */
function wholeTerm(
  terms: CompiledTerms,
  begins: Day,
): { readonly invoice: Computed['invoices'][number] | null; readonly walk: PaymentWalk } {
  const walk = new PaymentWalk(taxedAtOnce(terms));
  const payments: Payment[] = [];
  for (let payment = walk.next(); payment !== null; payment = walk.next()) payments.push(payment);
  const [first] = payments;
  if (!first) return { invoice: null, walk };
  const lawTaxes = lawTaxesOn(terms, begins);
  const invoice = { payment: wholeOf(first, payments), dues: payments, lawTaxes, walkBefore: null };
  return { invoice, walk };
}

/** The one invoice of a fixed term that is not issued yet; null: it is, or there is nothing to pay. */
function wholeInvoice({ walk }: DueSubscription, terms: CompiledTerms): Computed['invoices'][number] | null {
  const begins = walk === null ? new PaymentWalk(terms).next()?.from : undefined;
  return begins === undefined ? null : wholeTerm(terms, begins).invoice;
}

function toWrite(
  subscription: DueSubscription,
  invoice: Computed['invoices'][number],
  parties: InvoiceParties,
): InvoiceToWrite {
  const { id, customerId, terms, invoiceFields, account, servedAt, line_sources: sources } = subscription;
  return {
    ...invoice,
    ...{ subscriptionId: id, customerId, currency: terms.currency, parties, fields: invoiceFields, account },
    at: servedAt && sayPlace(servedAt, sayCountry),
    accounts: new Map((sources ?? []).map((source) => [source.line, source.account])),
  };
}

function starts(subscription: DueSubscription, businessDate: string): boolean {
  return subscription.state === 'scheduled' && standsOn(subscription, businessDate) !== 'scheduled';
}

function standing(
  {
    subscription,
    terms,
    reached,
  }: { subscription: DueSubscription; terms: CompiledTerms; reached: Computed },
  businessDate: string,
): Reached {
  const { id } = subscription;
  const wakeOn = nextWake(subscription, businessDate, reached.next);
  const { invoicing } = subscription;
  const stands = { id, walk: reached.walk, wakeOn, state: standsOn(subscription, businessDate), invoicing };
  const { currency } = subscription.terms;
  return { ...stands, currency, foreseen: foreseenOf(stands, terms, businessDate) };
}

/** Who issues invoices now: kept with each, so that no later setting changes it. */
async function sellerOf(almanac: Almanac, within?: Transaction): Promise<Omit<InvoiceParties, 'to'>> {
  const business = await settingsOf(almanac, 'business', within);
  const { note, footer, columns } = await settingsOf(almanac, 'invoicing', within);
  const { legalName, name, address, taxNumber, country } = business;
  return { legalName: legalName || name, address, taxNumber, country, note, footer, columns };
}

function partiesOf(seller: Omit<InvoiceParties, 'to'>, buyer: DueSubscription): InvoiceParties {
  const { name, organisation, address, taxNumber, tax_exempt: taxExempt, country } = buyer;
  // What a plan says for itself stands in place of what is said for all.
  const { note, footer, columns } = buyer.onInvoices;
  const own = { ...(note && { note }), ...(footer && { footer }), ...(columns && { columns }) };
  return { ...seller, ...own, to: { name, organisation, address, taxNumber, taxExempt, country } };
}
