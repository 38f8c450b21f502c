import { isDeepStrictEqual } from 'node:util';
import type { Transaction } from 'sequelize';
import type { RateTerms } from '../../core/offer/composeTerms.ts';
import type { Almanac } from '../almanac.ts';
import { safeText } from '../branding/formattedText.ts';
import { addDiscount } from '../discounts/discounts.ts';
import { rateOptionsSchema } from '../plans/choiceMessages.ts';
import { Plan } from '../plans/Plan.ts';
import { mayDoOf, optionsOf } from '../plans/plans.ts';
import { Rate } from '../plans/Rate.ts';
import { keepVersion } from '../plans/rateVersions.ts';
import { addVariant, changeVariant, variantsOf } from '../plans/variants.ts';
import { rateCardSchema, type RateCardValue } from '../rateCards/messages.ts';
import { addRateCard, changeRateCard, readRateCard } from '../rateCards/rateCards.ts';
import type { ImportReport } from './importFiles.ts';
import type { PlanFile } from './planFile.ts';

type FilePlan = PlanFile['plans'][number];
type FileRate = FilePlan['rates'][number];
type FileCard = NonNullable<PlanFile['rateCards']>[number];

/**
 * Adds what a file offers: plans with their rates and variants, rate cards, discounts. What is there by its key is left
 * as it is, unless it is to be made what the file says.
 */
export async function addOffer(
  almanac: Almanac,
  file: PlanFile,
  report: ImportReport,
  update: boolean,
  within: Transaction,
  tell: (says: string) => void,
): Promise<void> {
  for (const wanted of file.plans) {
    const plan = await addPlan(wanted, report, update, within);
    for (const rate of wanted.rates) await addRate(almanac, plan, rate, report, update, within);
    await addVariants(almanac, plan, wanted, report, update, within);
  }
  for (const card of file.rateCards ?? []) await addCard(almanac, card, report, update, within, tell);
  for (const { for: keys, value, codes } of file.discounts ?? []) {
    const there = await almanac.db.row(
      'select 1 from discounts where lower(name) = lower($name) and archived_on is null',
      { name: value.name },
      within,
    );
    if (there) continue;
    const plans = await Plan.findAll({ where: { key: keys }, transaction: within });
    await addDiscount(almanac, { ...value, plans: plans.map(({ id }) => id) }, codes, within);
    report.added.discounts += 1;
  }
}

async function addPlan(
  wanted: FilePlan,
  report: ImportReport,
  update: boolean,
  within: Transaction,
): Promise<Plan> {
  const known = await Plan.findOne({ where: { key: wanted.key }, transaction: within });
  const facts = planFacts(wanted);
  if (!known) {
    report.added.plans += 1;
    return Plan.create({ key: wanted.key, ...facts }, { transaction: within });
  }
  if (update && planMembersThatDiffer(known, wanted).length > 0) {
    await known.update({ ...facts, version: known.version + 1 }, { transaction: within });
    report.changed.plans += 1;
  }
  return known;
}

/** What a file says of a plan itself; what it leaves out stays, or is as a new plan has it. */
function planFacts({ rates: _rates, variants: _variants, key: _key, ...facts }: FilePlan) {
  return withoutGaps({ ...facts, description: safeText(facts.description) });
}

/** The members of a plan itself in which the file says something else. */
export function planMembersThatDiffer(plan: Plan, wanted: FilePlan) {
  const { name, description, outerName, kind, statementText, asks, extras } = plan;
  const stored = { name, description, outerName, kind, statementText, asks, extras, mayDo: mayDoOf(plan) };
  return Object.entries(planFacts(wanted)).flatMap(([member, value]) => {
    const now = stored[member as keyof typeof stored];
    return isDeepStrictEqual(plain(now), plain(value)) ? [] : [{ member, stored: now, file: value }];
  });
}

async function addRate(
  almanac: Almanac,
  plan: Plan,
  file: FileRate,
  report: ImportReport,
  update: boolean,
  within: Transaction,
): Promise<void> {
  const { key, name } = file;
  const terms = file.terms as RateTerms;
  const where = { planId: plan.id, key };
  const rate = await Rate.findOne({ where, transaction: within });
  if (rate === null) {
    const made = await Rate.create(
      { ...where, name, terms, options: rateOptionsSchema.parse(file.options ?? {}) },
      { transaction: within },
    );
    await keepVersion(almanac, made, within);
    report.added.rates += 1;
  } else if (update && !sameRate(rate, file)) {
    // Those who subscribe stay on their version; the file's is what is sold from now on.
    const options = { ...optionsOf(rate), ...file.options };
    await rate.update({ name, terms, options, version: rate.version + 1 }, { transaction: within });
    await keepVersion(almanac, rate, within);
    report.changed.rates += 1;
  } else report.alreadyThere.rates += 1;
}

/** Whether a stored rate is what a file says, whatever the order of its members. */
export function sameRate(
  rate: Pick<Rate, 'name' | 'terms' | 'options'>,
  file: Omit<FileRate, 'key'>,
): boolean {
  const { gateways: _, ...options } = optionsOf(rate);
  return (
    rate.name === file.name &&
    isDeepStrictEqual(plain(rate.terms), file.terms) &&
    (file.options === undefined || isDeepStrictEqual(options, file.options))
  );
}

async function addVariants(
  almanac: Almanac,
  plan: Plan,
  { variants = [] }: FilePlan,
  report: ImportReport,
  update: boolean,
  within: Transaction,
): Promise<void> {
  if (variants.length === 0) return;
  const rates = await Rate.findAll({ where: { planId: plan.id }, transaction: within });
  const known = await variantsOf(almanac, [plan.id], within);
  for (const { key, name, says, prices } of variants) {
    const byId = Object.entries(prices).flatMap(([rateKey, of]) => {
      const rate = rates.find((one) => one.key === rateKey);
      return rate ? [[rate.id, of] as const] : [];
    });
    const value = { name, says, prices: Object.fromEntries(byId) };
    const there = known.find((variant) => variant.key === key);
    if (!there) {
      await addVariant(almanac, { planId: plan.id, key, value }, within);
      report.added.variants += 1;
    } else if (
      update &&
      !isDeepStrictEqual(plain({ name: there.name, says: there.says, prices: there.prices }), plain(value))
    ) {
      await changeVariant(almanac, there.id, { version: there.version, value }, within);
      report.changed.variants += 1;
    }
  }
}

async function addCard(
  almanac: Almanac,
  card: FileCard,
  report: ImportReport,
  update: boolean,
  within: Transaction,
  tell: (says: string) => void,
): Promise<void> {
  const value = await cardValue(almanac, card, within, tell);
  if (value === null) return;
  const known = await almanac.db.row<{ id: string }>(
    'select id::text from rate_cards where key = $key',
    { key: card.key },
    within,
  );
  if (!known) {
    await addRateCard(almanac, card.key, value, within);
    report.added.rateCards += 1;
    return;
  }
  const stored = await readRateCard(almanac, known.id, within);
  if (!update || sameCard(stored, value)) return;
  await changeRateCard(almanac, known.id, { version: stored.version, value }, within);
  report.changed.rateCards += 1;
}

/** A card of a file as it would be stored: its keys are the ids of rates and variants; null where one is not there. */
export async function cardValue(
  almanac: Almanac,
  { key: _, prices, ...card }: FileCard,
  within: Transaction | undefined,
  tell: (says: string) => void,
): Promise<RateCardValue | null> {
  const found: RateCardValue['prices'] = [];
  for (const { plan, rate, variant = '', prices: of } of prices) {
    const row = await almanac.db.row<{ rateId: string; variantId: string | null }>(
      `select r.id::text as "rateId", (select v.id::text from variants v where v.plan_id = p.id and v.key = $variant) as "variantId"
       from rates r join plans p on p.id = r.plan_id where p.key = $plan and r.key = $rate`,
      { plan, rate, variant },
      within,
    );
    if (!row || (variant !== '' && row.variantId === null)) {
      tell(
        `${card.name}: there is no rate "${plan}/${rate}"${variant === '' ? '' : ` or no variant "${variant}"`}`,
      );
      return null;
    }
    found.push({ ...row, prices: of });
  }
  const parsed = rateCardSchema.safeParse({ ...card, prices: found });
  if (parsed.success) return parsed.data;
  for (const { message } of parsed.error.issues) tell(`${card.name}: ${message}`);
  return null;
}

/** Whether a stored card is what a file says, whatever the order of its prices and their members. */
export function sameCard(stored: RateCardValue, file: RateCardValue): boolean {
  const value = ({ name, givenBy, group, code, validFrom, validTo, prices }: RateCardValue) => ({
    ...{ name, givenBy, group, code, validFrom, validTo },
    prices: new Map(prices.map(({ rateId, variantId, prices: of }) => [`${rateId}:${variantId}`, plain(of)])),
  });
  return isDeepStrictEqual(value(stored), value(file));
}

const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value ?? null));

/** Facts without the members that the file leaves out. */
function withoutGaps<Facts extends object>(
  facts: Facts,
): { [Name in keyof Facts]: Exclude<Facts[Name], undefined> } {
  return Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== undefined)) as never;
}
