import { sayRate, type SayableTerms } from '../../core/words/sayRate.ts';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import { likePattern, type ListQuery } from '../http/list.ts';
import type { newPlanSchema, PlanView } from './messages.ts';
import { Plan } from './Plan.ts';
import { settingsOf } from '../settings/settings.ts';
import { Rate, taxOfRate, type TaxChoice } from './Rate.ts';
import { faultsOfRate, type RateTerms } from './rateTerms.ts';
import type { z } from 'zod';

interface PlanRow {
  readonly id: string;
  readonly name: string;
  readonly description: string;
  readonly rates: {
    id: string;
    name: string;
    terms: SayableTerms & Record<string, unknown>;
    subscribers: number;
    taxChoice: TaxChoice;
  }[];
}

/** The plans with their rates and how many subscribe to each, by name. */
export async function listPlans(almanac: Almanac, query: Pick<ListQuery, 'search'>): Promise<PlanView[]> {
  const rows = await almanac.db.rows<PlanRow>(
    `select p.id, p.name, p.description,
       (select json_agg(json_build_object('id', r.id::text, 'name', r.name, 'terms', r.terms, 'taxChoice', r.tax_choice, 'subscribers',
          (select count(*)::int from subscriptions s
           where s.rate_id = r.id and s.state not in ('lapsed', 'ended'))) order by r.id)
        from rates r where r.plan_id = p.id) as rates
     from plans p where p.archived_on is null and (p.name ilike $pattern or p.description ilike $pattern)
     order by p.name, p.id`,
    { pattern: likePattern(query.search) },
  );
  const { defaultTax } = await settingsOf(almanac, 'taxing');
  return rows.map(({ rates, ...plan }) => ({
    ...plan,
    subscribers: rates.reduce((sum, rate) => sum + rate.subscribers, 0),
    rates: rates.map(({ taxChoice, ...rate }) => ({
      ...rate,
      says: sayRate(rate.terms),
      taxId: taxOfRate({ terms: rate.terms, taxChoice }, defaultTax),
    })),
  }));
}

/** One plan, or a refusal where there is none. */
export async function readPlan(almanac: Almanac, id: string): Promise<PlanView> {
  const plan = (await listPlans(almanac, { search: '' })).find((one) => one.id === id);
  if (!plan) throw new RefusedCommand(404, 'There is no such plan.');
  return plan;
}

/** Makes a plan with one rate. The terms are refused, field by field, where they cannot be computed. */
export async function makePlan(
  almanac: Almanac,
  wanted: z.output<typeof newPlanSchema>,
): Promise<{ id: string }> {
  const faults = faultsOfRate(wanted.rate.terms);
  if (faults.length > 0) {
    throw new RefusedTerms(faults.map((fault) => ({ ...fault, pointer: `/rate/terms${fault.pointer}` })));
  }
  return almanac.db.transaction(async (within) => {
    const stem = keyOf(wanted.name);
    const taken = new Set(
      (
        await almanac.db.rows<{ key: string }>(
          'select key from plans where key like $like',
          { like: `${stem}%` },
          within,
        )
      ).map(({ key }) => key),
    );
    let key = stem;
    for (let n = 2; taken.has(key); n += 1) key = `${stem}-${n}`;
    const { name, description, rate } = wanted;
    const plan = await Plan.create({ key, name, description }, { transaction: within });
    await Rate.create(
      { planId: plan.id, key: keyOf(rate.name), name: rate.name, terms: rate.terms as unknown as RateTerms },
      { transaction: within },
    );
    return { id: plan.id };
  });
}

/** A key for files, from a name: small letters, digits and hyphens. */
function keyOf(name: string): string {
  const key = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 50);
  return key || 'plan';
}
