import { Op, type Transaction, type WhereOptions } from 'sequelize';
import { composeTerms } from '../../core/offer/composeTerms.ts';
import { extrasOf, requiredExtras } from '../../core/offer/extras.ts';
import { offersRate } from '../../core/offer/variant.ts';
import { Law, type LawData } from '../../core/terms/law.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { businessDateOf } from '../business/businessDate.ts';
import type { KnownCard } from './customers.sql.ts';
import { groupNamed } from '../customers/groups.ts';
import { readAnew } from '../db/readOnce.ts';
import { noteLawChanged } from '../forecast/altered.ts';
import { likeItself } from '../http/list.ts';
import { Plan } from '../plans/Plan.ts';
import { optionsOf } from '../plans/plans.ts';
import { Rate } from '../plans/Rate.ts';
import { faultsOfTerms } from '../plans/rateTerms.ts';
import { variantsOf } from '../plans/variants.ts';
import { policyInForce } from '../policies/policies.ts';
import { cardsFor } from '../rateCards/takeCard.ts';
import { accept, type Accepted } from '../reckonings/accept.ts';
import { settingsOf } from '../settings/settings.ts';
import { readLaw } from '../subscriptions/law.ts';
import type { CustomerRow } from './customerFile.ts';
import {
  beginNotes,
  customersOf,
  insertCards,
  insertCustomers,
  noteReferences,
  subscribedOf,
  type ImportedCustomer,
  type NewCustomer,
} from './customers.sql.ts';
import type { ImportCounts } from './report.ts';

/** Tells what is wrong with a row. */
type Tell = (row: CustomerRow, says: string) => void;
/** What somebody subscribes to, as all who subscribe to the same have it. */
type Agreed = Pick<Accepted, 'reckoning' | 'paying' | 'paidAs'>;

/**
 * Adds the customers of files, with their cards and subscriptions, batch by batch, in one transaction. A batch takes as many
 * statements however many rows it has, and nothing is kept of it once it is stored.
 */
export class CustomerImport {
  /** What is offered by keys, found once: null where there is no such thing. */
  private readonly plans = new Map<string, Promise<Plan | null>>();
  private readonly rates = new Map<string, Promise<Rate | null>>();
  private readonly variants = new Map<string, ReturnType<typeof variantsOf>>();
  private readonly groups = new Map<string, Promise<string | null>>();
  private readonly rateCards = new Map<string, ReturnType<typeof cardsFor>>();
  private readonly law: Law;
  private cardHolder: ReturnType<Almanac['gateways']['requireFor']> | null = null;

  private constructor(
    private readonly almanac: Almanac,
    private readonly report: ImportCounts,
    private readonly within: Transaction,
    private readonly businessDate: string,
    private readonly policyId: string | null,
    private readonly lawData: LawData,
    private readonly ownFields: ReadonlySet<string>,
    private readonly dryRun: boolean,
  ) {
    this.law = new Law(lawData);
  }

  /** @param dryRun what is added is to be taken back: subscriptions are checked, and only noted */
  static async begin(
    almanac: Almanac,
    report: ImportCounts,
    dryRun: boolean,
    within: Transaction,
  ): Promise<CustomerImport> {
    const today = await businessDateOf(almanac, within);
    const policy = await policyInForce(almanac, 'terms of service', today, within);
    const law = await readLaw(almanac, within);
    if (dryRun) await beginNotes(almanac, within);
    const { fields } = await settingsOf(almanac, 'customers', within);
    const own = new Set(fields.map(({ label }) => label));
    return new CustomerImport(almanac, report, within, today, policy?.id ?? null, law, own, dryRun);
  }

  /** Adds rows. What is there already by its reference, or by a row before, is left as it is. */
  async add(rows: readonly CustomerRow[], cards: ReadonlyMap<string, KnownCard>, tell: Tell): Promise<void> {
    for (const row of rows)
      if (row.card_token !== '' && !cards.has(row.card_token))
        tell(row, 'card_token: the gateway does not know this card');
    const wanted = rows.filter(({ plan }) => plan !== '');
    const there = await subscribedOf(this.almanac, referencesOf(wanted), this.dryRun, this.within);
    for (const row of rows)
      for (const { label } of row.own)
        if (!this.ownFields.has(label)) tell(row, `field:${label}: customers have no such field`);
    const customers = await this.addCustomers(rows, cards, there);
    await this.subscribe(wanted, customers, there, tell);
  }

  /** Where a tax or a holiday was changed meanwhile, all are foreseen anew by workers: these were by what it was before. */
  async end(): Promise<void> {
    // As it stands now, not as it was when this began.
    readAnew(this.within);
    const now = await readLaw(this.almanac, this.within);
    if (JSON.stringify(now) !== JSON.stringify(this.lawData)) await noteLawChanged(this.almanac, this.within);
  }

  /** The cards of rows, by their tokens, as the gateway knows them. It is asked outside of the transaction. */
  async cardsOf(rows: readonly CustomerRow[]): Promise<Map<string, KnownCard>> {
    const tokens = new Set(rows.flatMap(({ card_token }) => (card_token === '' ? [] : [card_token])));
    if (tokens.size === 0) return new Map();
    this.cardHolder ??= this.almanac.gateways.requireFor('card');
    const { account, gateway } = await this.cardHolder;
    const facts = await gateway.cards([...tokens]);
    return new Map(facts.map((card) => [card.token, { ...card, accountId: account.id }]));
  }

  /** The customers of rows by their references, new ones with their cards. */
  private async addCustomers(
    rows: readonly CustomerRow[],
    cards: ReadonlyMap<string, KnownCard>,
    there: ReadonlySet<string>,
  ): Promise<Map<string, ImportedCustomer>> {
    const { almanac, within, report, businessDate } = this;
    const known = await customersOf(almanac, referencesOf(rows), within);
    const byReference = new Map(known.map((customer) => [customer.reference, customer]));
    const fresh = new Map<string, CustomerRow>();
    for (const row of rows) {
      const isThere = byReference.has(row.reference) || fresh.has(row.reference);
      report[isThere ? 'alreadyThere' : 'added'].customers += 1;
      if (!isThere) fresh.set(row.reference, row);
    }
    const added: NewCustomer[] = [];
    for (const row of fresh.values()) {
      const { reference, name, email, group, plan, starts, card_token } = row;
      const { phone, organisation, address, postcode, region, language } = row;
      const groupId = await found(this.groups, group, () => groupNamed(almanac, group, within));
      added.push({
        reference,
        name,
        email,
        groupId,
        ...{ phone, organisation, address, postcode, region, language, fields: JSON.stringify(row.own) },
        ...{ country: row.country === '' ? null : row.country },
        ...{ taxNumber: row.tax_number, taxExempt: row.tax_exempt },
        since: plan === '' || there.has(reference) ? null : starts,
        hasMethod: cards.has(card_token),
      });
    }
    const customers = await insertCustomers(almanac, added, businessDate, within);
    for (const customer of customers) byReference.set(customer.reference, customer);
    // Whoever is new has no card before this one, and no case that it could close.
    const given = customers.flatMap(({ id, reference }) => {
      const card = cards.get(fresh.get(reference)?.card_token ?? '');
      return card ? [{ ...card, customerId: id }] : [];
    });
    const agreedText = 'Brought over with the card from the system before.';
    await insertCards(almanac, given, { agreedText, givenOn: businessDate, policyId: this.policyId }, within);
    return byReference;
  }

  private async subscribe(
    wanted: readonly CustomerRow[],
    customers: ReadonlyMap<string, ImportedCustomer>,
    there: Set<string>,
    tell: Tell,
  ): Promise<void> {
    const { almanac, within, report, businessDate } = this;
    // Of those who subscribe to the same, all but who they are is the same.
    const alike = new Map<string, Promise<Agreed | string>>();
    const accepted: Accepted[] = [];
    for (const row of wanted) {
      const { reference, plan, rate, variant, quantity, starts, amount, currency } = row;
      const customer = customers.get(reference);
      if (there.has(reference) || !customer) {
        report.alreadyThere.subscriptions += 1;
        continue;
      }
      const same = JSON.stringify([
        plan,
        rate,
        variant,
        quantity,
        starts,
        amount,
        currency,
        customer.groupId,
      ]);
      const agreed = await found(alike, same, () => this.agreedBy(row, customer));
      if (typeof agreed === 'string') {
        tell(row, agreed);
        continue;
      }
      there.add(reference);
      accepted.push({ reference, customer, ...agreed });
    }
    if (this.dryRun)
      await noteReferences(
        almanac,
        accepted.map(({ reference }) => reference),
        within,
      );
    else {
      const { policyId } = this;
      const agreement = { channel: 'import', on: businessDate, by: askerNow().who, policyId } as const;
      await accept(almanac, accepted, agreement, within, { law: this.law, businessDate });
    }
    report.added.subscriptions += accepted.length;
  }

  /** What a row subscribes to, or what is wrong with that. */
  private async agreedBy(row: CustomerRow, customer: ImportedCustomer): Promise<Agreed | string> {
    const { almanac, within, businessDate } = this;
    const plan = await found(this.plans, row.plan, () =>
      called((where) => Plan.findAll({ where, limit: 2, transaction: within }), row.plan),
    );
    if (!plan) return `plan: there is no plan "${row.plan}"`;
    const rate = await found(this.rates, JSON.stringify([plan.id, row.rate]), () =>
      called(
        (where) => Rate.findAll({ where: { ...where, planId: plan.id }, limit: 2, transaction: within }),
        row.rate,
      ),
    );
    if (!rate) return `rate: the plan "${row.plan}" has no rate "${row.rate}"`;
    const own = 'lines' in rate.terms && rate.terms.lines[0]?.price.scheme === 'chosen';
    if (row.amount !== '' && !own) return `amount: the rate "${row.rate}" has a price of its own`;
    if (row.currency !== '' && row.currency !== rate.terms.currency)
      return `currency: the rate "${row.rate}" is in ${rate.terms.currency}`;
    if (row.starts < businessDate)
      return `starts: lies before the business day ${businessDate}, so that past periods would be charged at once`;
    const variants =
      row.variant === ''
        ? []
        : await found(this.variants, plan.id, () => variantsOf(almanac, [plan.id], within));
    const variant = variants.find(({ key }) => key === row.variant) ?? null;
    if (variant && !offersRate(variant, rate.id))
      return `variant: "${row.variant}" cannot be had at the rate "${row.rate}"`;
    if (!variant && row.variant !== '')
      return `variant: the plan "${row.plan}" has no variant "${row.variant}"`;
    const variantId = variant?.id ?? null;
    const rateCards = await found(
      this.rateCards,
      JSON.stringify([rate.id, variantId, customer.groupId]),
      // The same for all of a group.
      () =>
        cardsFor(almanac, { rateId: rate.id, variantId, customerId: customer.id, on: businessDate }, within),
    );
    const rateCard = rateCards.find(({ givenBy }) => givenBy === 'group');
    const { methods, recurringStart } = optionsOf(rate);
    const extras = requiredExtras(extrasOf(plan.extras, rate.terms));
    const terms = composeTerms(rate.terms, {
      starts: row.starts,
      quantity: row.quantity === '' ? undefined : Number(row.quantity),
      amount: row.amount === '' ? undefined : row.amount,
      recurringStart,
      prices: [variant?.prices[rate.id], rateCard?.prices],
      extras,
    });
    const faults = faultsOfTerms(terms);
    if (faults.length > 0) return faults.map(({ pointer, detail }) => `${pointer}: ${detail}`).join('; ');
    const collects = methods.every((way) => way === 'invoice') ? 'by hand' : 'automatic';
    return {
      reckoning: { rate, terms, variantId, rateCardId: rateCard?.id ?? null, extras },
      paying: { collects },
      paidAs: collects === 'automatic' ? ('card' as const) : ('by invoice' as const),
    };
  }
}

/** What has a key, or is the only one that is called so and still offered; null where there is none. */
async function called<Sold extends { readonly key: string }>(
  find: (where: WhereOptions) => Promise<Sold[]>,
  word: string,
): Promise<Sold | null> {
  const [byKey] = await find({ key: word });
  if (byKey) return byKey;
  const named = await find({ name: { [Op.iLike]: likeItself(word) }, archivedOn: null });
  return named.length === 1 ? (named[0] ?? null) : null;
}

const referencesOf = (rows: readonly CustomerRow[]) => [...new Set(rows.map(({ reference }) => reference))];

/** What was found before under a key, or is looked for now. */
function found<T>(kept: Map<string, Promise<T>>, key: string, look: () => Promise<T>): Promise<T> {
  const value = kept.get(key) ?? look();
  kept.set(key, value);
  return value;
}
