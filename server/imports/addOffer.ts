import type { Transaction } from 'sequelize';
import { RefusedTerms } from '../../core/terms/fault.ts';
import type { RateTerms } from '../../core/offer/composeTerms.ts';
import type { Almanac } from '../almanac.ts';
import { takeDocument, takeUpload } from '../branding/uploads.ts';
import { addCodes, addDiscount, changeDiscount } from '../discounts/discounts.ts';
import { RefusedCommand } from '../http/problem.ts';
import { rateOptionsSchema } from '../plans/choiceMessages.ts';
import { Plan } from '../plans/Plan.ts';
import { optionsOf } from '../plans/plans.ts';
import { Rate, type TaxChoice } from '../plans/Rate.ts';
import { keepVersion } from '../plans/rateVersions.ts';
import { addVariant, changeVariant, variantsOf } from '../plans/variants.ts';
import { rateCardSchema, type RateCardValue } from '../rateCards/messages.ts';
import { addRateCard, changeRateCard, readRateCard } from '../rateCards/rateCards.ts';
import type { ImportCounts } from './report.ts';
import {
  cardMembers,
  discountMembers,
  discountNamed,
  planMembers,
  rateMembers,
  variantMembers,
} from './offerDifferences.ts';
import { offerForFile } from './offerForFile.ts';
import type { FileCard, FileDiscount, FilePlan, FileRate, FileVariant, PlanFile } from './planFile.ts';

/** Tells what of a file cannot be done, with the path of it in the file. */
type Tell = (says: string, path: readonly PropertyKey[]) => void;

/** What is refused of one thing of a file, which then is passed over and told. */
class Unfit extends Error {}

/**
 * Adds what a file offers: plans with their rates and variants, rate cards, discounts, and the pictures and documents
 * of plans. What is there by its key is left as it is, unless it is to be made what the file says.
 */
export async function addOffer(
  almanac: Almanac,
  file: PlanFile,
  report: ImportCounts,
  update: boolean,
  within: Transaction,
  tell: Tell,
): Promise<void> {
  const stored = await offerForFile(almanac, { archived: true }, within);
  const adding = new OfferAdding(almanac, stored, report, update, within, tell);
  for (const [address, { name, data }] of Object.entries(file.files ?? {}))
    await adding.orTell(['files', address], name || address, () => adding.file(address, name, data));
  for (const [i, plan] of file.plans.entries())
    await adding.orTell(['plans', i], plan.name, () => adding.plan(plan));
  for (const [i, card] of (file.rateCards ?? []).entries())
    await adding.orTell(['rateCards', i], card.name, () => adding.card(card));
  for (const [i, discount] of (file.discounts ?? []).entries())
    await adding.orTell(['discounts', i], discount.value.name, () => adding.discount(discount));
}

class OfferAdding {
  constructor(
    private readonly almanac: Almanac,
    private readonly stored: Required<PlanFile>,
    private readonly report: ImportCounts,
    private readonly update: boolean,
    private readonly within: Transaction,
    private readonly tell: Tell,
  ) {}

  /** Does one thing, or tells why it is refused; the rest is looked at nevertheless, so that all of it is told at once. */
  async orTell(path: readonly PropertyKey[], name: string, work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      if (error instanceof RefusedTerms)
        for (const { detail } of error.faults) this.tell(`${name}: ${detail}`, path);
      else if (error instanceof RefusedCommand || error instanceof Unfit)
        this.tell(`${name}: ${error.message}`, path);
      else throw error;
    }
  }

  async file(address: string, name: string, data: string): Promise<void> {
    const { almanac, within } = this;
    const there = await almanac.db.row('select 1 from uploads where address = $address', { address }, within);
    if (there) return;
    const bytes = Buffer.from(data, 'base64');
    if (bytes.subarray(0, 5).toString('latin1') === '%PDF-')
      await takeDocument(almanac, bytes, name, { address, within });
    else await takeUpload(almanac, 'picture', bytes, name, { address, within });
  }

  async plan(wanted: FilePlan): Promise<void> {
    const { within, report } = this;
    const stored = this.stored.plans.find(({ key }) => key === wanted.key);
    const { key, rates, variants = [], firstRate, picture, documents, ...facts } = wanted;
    const shown = await this.shown(picture, documents);
    const known = await Plan.findOne({ where: { key }, transaction: within });
    if (!known) report.added.plans += 1;
    const plan =
      known ?? (await Plan.create({ key, ...withoutGaps({ ...facts, ...shown }) }, { transaction: within }));
    for (const rate of rates) await this.rate(plan, stored, rate);
    const first =
      firstRate && (await Rate.findOne({ where: { planId: plan.id, key: firstRate }, transaction: within }));
    if (firstRate && !first) throw new Unfit(`there is no rate "${firstRate}" to offer first`);
    const offeredFirst = firstRate === undefined ? undefined : (first && first.id) || null;
    if (!known && offeredFirst) await plan.update({ firstRate: offeredFirst }, { transaction: within });
    if (known && stored && this.update && planMembers(stored, wanted).length > 0) {
      const all = withoutGaps({ ...facts, ...shown, firstRate: offeredFirst });
      await known.update({ ...all, version: known.version + 1 }, { transaction: within });
      report.changed.plans += 1;
    }
    for (const variant of variants) await this.variant(plan, stored, variant);
  }

  /** The picture and the documents of a plan, by their ids here. */
  private async shown(picture: FilePlan['picture'], documents: FilePlan['documents']) {
    const idOf = async (address: string, kind: string) => {
      const row = await this.almanac.db.row<{ id: string }>(
        `select id::text from uploads where address = $address and (kind = 'document') = ($kind = 'document')`,
        { address, kind },
        this.within,
      );
      if (!row) throw new Unfit(`the file holds no ${kind} ${address}`);
      return row.id;
    };
    const found: { upload: string; name: string }[] = [];
    for (const { file, name } of documents ?? []) found.push({ upload: await idOf(file, 'document'), name });
    return {
      picture: picture ? await idOf(picture, 'picture') : picture,
      documents: documents && found,
    };
  }

  private async rate(plan: Plan, storedPlan: FilePlan | undefined, file: FileRate): Promise<void> {
    const { almanac, report, within } = this;
    const { key, name } = file;
    const terms = file.terms as RateTerms;
    const taxChoice = await this.taxOf(file.tax);
    const gateways = await this.gatewaysOf(file.options?.gateways);
    const given = withoutGaps({ ...file.options, gateways });
    const where = { planId: plan.id, key };
    const rate = await Rate.findOne({ where, transaction: within });
    const stored = storedPlan?.rates.find((one) => one.key === key);
    if (rate === null) {
      const options = rateOptionsSchema.parse(given);
      const facts = withoutGaps({ name, terms, options, taxChoice });
      const made = await Rate.create({ ...where, ...facts }, { transaction: within });
      await keepVersion(almanac, made, within);
      report.added.rates += 1;
    } else if (this.update && stored && rateMembers(stored, file).length > 0) {
      // Those who subscribe stay on their version; the file's is what is sold from now on.
      const facts = withoutGaps({ name, terms, options: { ...optionsOf(rate), ...given }, taxChoice });
      await rate.update({ ...facts, version: rate.version + 1 }, { transaction: within });
      await keepVersion(almanac, rate, within);
      report.changed.rates += 1;
    } else report.alreadyThere.rates += 1;
  }

  private async taxOf(tax: FileRate['tax']): Promise<TaxChoice | undefined> {
    if (tax === undefined) return undefined;
    if (typeof tax === 'string') return { kind: tax };
    const found = await this.almanac.db.row<{ id: string }>(
      'select id::text from taxes where lower(name) = lower($name) and retired_on is null',
      { name: tax.named },
      this.within,
    );
    if (!found) throw new Unfit(`there is no tax "${tax.named}"; see Setup, Taxes`);
    return { kind: 'tax', id: found.id };
  }

  private async gatewaysOf(names: readonly string[] | undefined): Promise<string[] | undefined> {
    if (names === undefined) return undefined;
    const connected = await this.almanac.gateways.connected(this.within);
    return names.map((name) => {
      const account = connected.find((one) => one.name === name);
      if (!account) throw new Unfit(`no gateway account "${name}" is connected; see Setup, Gateways`);
      return account.id;
    });
  }

  private async variant(plan: Plan, storedPlan: FilePlan | undefined, file: FileVariant): Promise<void> {
    const { almanac, report, within } = this;
    const { key, name, says } = file;
    const rates = await Rate.findAll({ where: { planId: plan.id }, transaction: within });
    const idOf = (rateKey: string) => {
      const rate = rates.find((one) => one.key === rateKey);
      if (!rate) throw new Unfit(`variant ${name}: there is no rate "${rateKey}"`);
      return rate.id;
    };
    const prices = Object.entries(file.prices).map(([rateKey, of]) => [idOf(rateKey), of] as const);
    const value = { name, says, prices: Object.fromEntries(prices), rates: file.rates.map(idOf) };
    const stored = storedPlan?.variants?.find((one) => one.key === key);
    if (!stored) {
      await addVariant(almanac, { planId: plan.id, key, value }, within);
      report.added.variants += 1;
    } else if (this.update && variantMembers(stored, file).length > 0) {
      const there = (await variantsOf(almanac, [plan.id], within)).find((one) => one.key === key);
      const archived = rates.filter(({ archivedOn }) => archivedOn !== null).map(({ id }) => id);
      const kept = Object.entries(there?.prices ?? {}).filter(([id]) => archived.includes(id));
      const all = { ...value, prices: { ...Object.fromEntries(kept), ...value.prices } };
      await changeVariant(almanac, there?.id ?? '', { version: there?.version ?? 0, value: all }, within);
      report.changed.variants += 1;
    }
  }

  async card(file: FileCard): Promise<void> {
    const { almanac, report, within } = this;
    const value = await this.cardValue(file);
    const stored = this.stored.rateCards.find(({ key }) => key === file.key);
    if (!stored) {
      await addRateCard(almanac, file.key, value, within);
      report.added.rateCards += 1;
    } else if (this.update && cardMembers(stored, file).length > 0) {
      const known = await almanac.db.row<{ id: string }>(
        'select id::text from rate_cards where key = $key',
        { key: file.key },
        within,
      );
      const { id, version } = await readRateCard(almanac, known?.id ?? '', within);
      const isNamed = (one: { rateId: string; variantId: string | null }) =>
        value.prices.some(({ rateId, variantId }) => rateId === one.rateId && variantId === one.variantId);
      const kept = (await this.archivedPrices(id)).filter((one) => !isNamed(one));
      const prices = [...kept, ...value.prices];
      await changeRateCard(almanac, id, { version, value: { ...value, prices } }, within);
      report.changed.rateCards += 1;
    }
  }

  /** The prices of a card for what is archived: no file names them, and they stay. */
  private archivedPrices(cardId: string): Promise<RateCardValue['prices']> {
    return this.almanac.db.rows(
      `select x.rate_id::text as "rateId", x.variant_id::text as "variantId", x.prices
       from rate_card_prices x join rates r on r.id = x.rate_id join plans p on p.id = r.plan_id
       left join variants v on v.id = x.variant_id
       where x.card_id = $cardId and coalesce(r.archived_on, p.archived_on, v.archived_on) is not null`,
      { cardId },
      this.within,
    );
  }

  /** A card of a file as it is stored: its keys are the ids of rates and variants. */
  private async cardValue({ key: _key, prices, ...card }: FileCard): Promise<RateCardValue> {
    const found: RateCardValue['prices'] = [];
    for (const { plan, rate, variant = '', prices: of } of prices) {
      const row = await this.almanac.db.row<{ rateId: string; variantId: string | null }>(
        `select r.id::text as "rateId", (select v.id::text from variants v where v.plan_id = p.id and v.key = $variant) as "variantId"
         from rates r join plans p on p.id = r.plan_id where p.key = $plan and r.key = $rate`,
        { plan, rate, variant },
        this.within,
      );
      if (!row) throw new Unfit(`there is no rate "${plan}/${rate}"`);
      if (variant !== '' && row.variantId === null)
        throw new Unfit(`there is no variant "${variant}" of "${plan}"`);
      found.push({ ...row, prices: of });
    }
    const parsed = rateCardSchema.safeParse({ ...card, prices: found });
    if (parsed.success) return parsed.data;
    throw new Unfit(parsed.error.issues.map(({ message }) => message).join(' '));
  }

  async discount(file: FileDiscount): Promise<void> {
    const { almanac, report, within } = this;
    const plans = await Plan.findAll({ where: { key: file.for }, transaction: within });
    const unknown = file.for.find((key) => !plans.some((plan) => plan.key === key));
    if (unknown !== undefined) throw new Unfit(`there is no plan "${unknown}"`);
    const value = { ...file.value, plans: plans.map(({ id }) => id) };
    const stored = discountNamed(this.stored, value.name);
    if (!stored) {
      await addDiscount(almanac, value, file.codes, within);
      report.added.discounts += 1;
    } else if (this.update && discountMembers(stored, file).length > 0) {
      const known = await almanac.db.row<{ id: string; version: number; archived: string[] }>(
        `select id::text, version, array(select p.id::text from plans p
           where p.id = any(d.plans) and p.archived_on is not null) as archived
         from discounts d where lower(name) = lower($name) and archived_on is null`,
        { name: value.name },
        within,
      );
      const { version = 0, archived = [] } = known ?? {};
      const all =
        value.plans.length === 0 ? value : { ...value, plans: [...new Set([...value.plans, ...archived])] };
      await changeDiscount(almanac, known?.id ?? '', { version, value: all }, within);
      await addCodes(almanac, known?.id ?? '', file.codes, within);
      report.changed.discounts += 1;
    }
  }
}

/** Facts without the members that the file leaves out. */
function withoutGaps<Facts extends object>(
  facts: Facts,
): { [Name in keyof Facts]: Exclude<Facts[Name], undefined> } {
  return Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined)) as never;
}
