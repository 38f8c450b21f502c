import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { RateTerms } from '../../core/offer/composeTerms.ts';
import { toDay } from '../../core/dates/day.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { sayRate, type SayableTerms } from '../../core/words/sayRate.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { outsideOfLoop } from '../parsing/outsideOfLoop.ts';
import { statementFaults } from '../gateways/abilities.ts';
import { likePattern, type ListQuery } from '../http/list.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { differenceOf, settingsOf } from '../settings/settings.ts';
import { mayDoSchema, rateOptionsSchema, type MayDo, type RateOptions } from './choiceMessages.ts';
import { freeKey, keyOf } from './keys.ts';
import type { newPlanSchema, planSchema, PlanView, rateSchema, RateView } from './messages.ts';
import { Plan } from './Plan.ts';
import { Rate, taxOfRate, type TaxChoice } from './Rate.ts';
import { requireNamed, requireRateOf, requireShown } from './references.ts';
import { keepVersion } from './rateVersions.ts';
import { faultsOfRate } from './rateTerms.ts';
import { variantsOf } from './variants.ts';

type StoredRate = Omit<RateView, 'says' | 'taxId' | 'terms'> & {
  terms: SayableTerms & Record<string, unknown>;
  taxChoice: TaxChoice;
};

/**
 * The plans with their rates and how many subscribe to each, by name; archived ones only where they are asked for.
 * @param counts whether subscribers are counted: whoever does that in another way is given none
 */
export async function listPlans(
  almanac: Almanac,
  query: Pick<ListQuery, 'search'> & { readonly id?: string },
  archivedToo = false,
  counts = true,
): Promise<PlanView[]> {
  const rows = await almanac.db.rows<
    Omit<PlanView, 'rates' | 'subscribers' | 'variants'> & { rates: StoredRate[] | null }
  >(
    `select p.id::text, p.name, p.outer_name as "outerName", p.kind, p.description, p.statement_text as "statementText",
       p.first_rate::text as "firstRate", p.version, p.archived_on as "archivedOn",
       p.picture::text, p.documents, p.asks, p.extras, p.may_do as "mayDo", p.on_invoices as "onInvoices",
       (select '/pictures/' || u.address from uploads u where u.id = p.picture) as "pictureAt",
       (select coalesce(json_agg('/documents/' || u.address order by d.place), '[]')
        from jsonb_array_elements(p.documents) with ordinality as d (document, place)
        left join uploads u on u.id = (d.document ->> 'upload')::bigint) as "documentsAt",
       (select json_agg(json_build_object('id', r.id::text, 'name', r.name, 'terms', r.terms, 'taxChoice', r.tax_choice,
          'options', r.options,
          'version', r.version, 'archivedOn', r.archived_on, 'subscribers',
          case when not $counts::boolean then 0 else
          (select count(*)::int from subscriptions s
           where s.rate_id = r.id and s.state not in ('lapsed', 'ended')) end,
          -- Nobody can be behind a first version.
          'behind', case when r.version = 1 or not $counts::boolean then 0 else
          (select count(*)::int from subscriptions s
           where s.rate_id = r.id and s.state not in ('lapsed', 'ended') and s.rate_version < r.version
             and not exists (select 1 from subscription_moves sm join rate_moves m on m.id = sm.move_id
                             where sm.subscription_id = s.id and m.to_version = r.version)) end)
          order by r.id is distinct from p.first_rate, r.id)
        from rates r where r.plan_id = p.id and ($archived or r.archived_on is null)) as rates
     from plans p where ($archived or p.archived_on is null) and ($id = '' or p.id::text = $id) and (p.name ilike $pattern or regexp_replace(p.description, '<[^>]*>', ' ', 'g') ilike $pattern)
     order by p.name, p.id`,
    { pattern: likePattern(query.search), archived: archivedToo, counts, id: query.id ?? '' },
  );
  const { defaultTax } = await settingsOf(almanac, 'taxing');
  const law = await loadLaw(almanac);
  const today = toDay(await businessDateOf(almanac));
  const at = { country: null, region: '', tax_exempt: '' };
  const taxSaid = (rate: Parameters<typeof taxOfRate>[0]) =>
    law.taxSaid({ terms: rate.terms as Terms, tax_id: taxOfRate(rate, defaultTax), ...at }, today);
  const variants = await variantsOf(
    almanac,
    rows.map(({ id }) => id),
  );
  return rows.map(({ rates, ...plan }) => ({
    ...plan,
    mayDo: mayDoOf(plan),
    variants: variants
      .filter(({ planId, archivedOn }) => planId === plan.id && (archivedToo || archivedOn === null))
      .map(({ planId: _, ...variant }) => variant),
    subscribers: (rates ?? []).reduce((sum, rate) => sum + rate.subscribers, 0),
    rates: (rates ?? []).map((rate) => ({
      ...rate,
      options: optionsOf(rate),
      says: sayRate(rate.terms, taxSaid(rate)),
      taxId: taxOfRate(rate, defaultTax),
    })),
  }));
}

/** One plan with all its rates, or a refusal where there is none. */
export async function readPlan(almanac: Almanac, id: string): Promise<PlanView> {
  const [plan] = await listPlans(almanac, { search: '', id }, true);
  if (!plan) throw new RefusedCommand(404, 'There is no such plan.');
  return plan;
}

/** What customers of a plan may do alone. */
export function mayDoOf(plan: { readonly mayDo: Partial<MayDo> }): MayDo {
  return mayDoSchema.parse(plan.mayDo);
}

/** How a rate is sold and collected. */
export function optionsOf(rate: { readonly options: Partial<RateOptions> }): RateOptions {
  return rateOptionsSchema.parse(rate.options);
}

/** Makes a plan with one rate. The terms are refused, field by field, where they cannot be computed. */
export async function makePlan(
  almanac: Almanac,
  wanted: z.output<typeof newPlanSchema>,
): Promise<{ id: string }> {
  requireGoodTerms(wanted.rate.terms, '/rate/terms');
  const description = await outsideOfLoop('safeText', wanted.description);
  return almanac.db.transaction(async (within) => {
    await requireStatementText(almanac, wanted.statementText, '/statementText', within);
    const { rate, ...facts } = wanted;
    await requireShown(almanac, facts, '', within);
    const key = await freeKey(almanac, { table: 'plans' }, keyOf(wanted.name), within);
    const plan = await Plan.create({ key, ...facts, description }, { transaction: within });
    await makeRate(almanac, plan.id, rate, '/rate', within);
    await recordDone(almanac, { did: 'made a plan', subject: plan.name, after: wanted }, within);
    return { id: plan.id };
  });
}

/** Adds a rate to a plan. */
export async function addRate(
  almanac: Almanac,
  planId: string,
  wanted: z.output<typeof rateSchema>,
): Promise<{ id: string }> {
  requireGoodTerms(wanted.terms, '/terms');
  return almanac.db.transaction(async (within) => {
    const plan = await Plan.findByPk(planId, { transaction: within, lock: within.LOCK.UPDATE });
    if (!plan) throw new RefusedCommand(404, 'There is no such plan.');
    const rate = await makeRate(almanac, planId, wanted, '', within);
    await recordDone(
      almanac,
      { did: 'added a rate', subject: `${plan.name}, ${rate.name}`, after: wanted },
      within,
    );
    return { id: rate.id };
  });
}

async function makeRate(
  almanac: Almanac,
  planId: string,
  wanted: z.output<typeof rateSchema>,
  under: string,
  within: Transaction,
): Promise<Rate> {
  await requireNamed(almanac, wanted, under, within);
  const { name, terms, taxChoice, options } = wanted;
  const key = await freeKey(almanac, { table: 'rates', planId }, keyOf(name), within);
  const rate = await Rate.create(
    { planId, key, name, terms: terms as unknown as RateTerms, taxChoice, options },
    { transaction: within },
  );
  await keepVersion(almanac, rate, within);
  return rate;
}

/** Changes what a plan says of itself. */
export async function changePlan(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: z.output<typeof planSchema> },
): Promise<void> {
  const text = await outsideOfLoop('safeText', edit.value.description);
  await almanac.db.transaction(async (within) => {
    const plan = await Plan.findByPk(id, { transaction: within, lock: within.LOCK.UPDATE });
    if (!plan) throw new RefusedCommand(404, 'There is no such plan.');
    const { name, outerName, kind, description, statementText, firstRate } = plan;
    const { picture, documents, asks, extras, onInvoices } = plan;
    const before = {
      ...{ name, outerName, kind, description, statementText, firstRate, picture, documents, asks, extras },
      onInvoices,
      mayDo: mayDoOf(plan),
    };
    if (plan.version !== edit.version)
      throw new ConflictingEdit({ value: before, version: plan.version, changedBy: plan.changedBy });
    await requireStatementText(almanac, edit.value.statementText, '/value/statementText', within);
    await requireShown(almanac, edit.value, '/value', within);
    await requireRateOf(plan.id, edit.value.firstRate, within);
    const value = { ...edit.value, description: text };
    await plan.update(
      { ...value, version: plan.version + 1, changedBy: askerNow().who },
      { transaction: within },
    );
    const done = { did: 'changed a plan', subject: name, ...differenceOf(before, value) };
    await recordDone(almanac, done, within);
  });
}

/** Refuses terms that cannot be computed, with pointers under the field that holds them. */
export function requireGoodTerms(terms: object, under: string): void {
  const faults = faultsOfRate(terms);
  if (faults.length > 0)
    throw new RefusedTerms(faults.map((fault) => ({ ...fault, pointer: `${under}${fault.pointer}` })));
}

async function requireStatementText(
  almanac: Almanac,
  text: string | null,
  pointer: string,
  within: Transaction,
): Promise<void> {
  const fault = text === null ? null : await statementFaults(almanac, text, within);
  if (fault !== null) throw new RefusedCommand(422, fault, pointer);
}
