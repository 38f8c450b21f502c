import { isDeepStrictEqual } from 'node:util';
import type { Almanac } from '../almanac.ts';
import type { DiscountValue } from '../discounts/messages.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { importFiles, readPlans, sameRate } from './importFiles.ts';
import type { OfferDifference, OfferImport } from './messages.ts';

/** Everything that is offered, in the open format: plans, their rates, and discounts with the codes that many may use. */
export async function exportOffer(almanac: Almanac): Promise<object> {
  const plans = await Plan.findAll({ where: { archivedOn: null }, order: ['id'] });
  const rates = await Rate.findAll({ where: { archivedOn: null }, order: ['id'] });
  const discounts = await almanac.db.rows<{
    value: DiscountValue;
    for: string[] | null;
    codes: string[] | null;
  }>(
    `select json_build_object('name', name, 'as', case when percent is null then 'amount' else 'percent' end,
         'off', coalesce(percent, amount), 'currency', currency, 'payments', payments, 'appliesTo', applies_to,
         'plans', '[]'::json, 'validFrom', valid_from, 'validTo', valid_to, 'mostUses', most_uses,
         'mostPerCustomer', most_per_customer, 'stacks', stacks) as value,
       (select array_agg(key order by key) from plans p where p.id = any(d.plans)) as for,
       (select array_agg(code order by id) from discount_codes c where c.discount_id = d.id and c.most_uses is null) as codes
     from discounts d where archived_on is null order by id`,
  );
  return {
    plans: plans.map(({ id, key, name, description, outerName, kind, statementText }) => ({
      key,
      name,
      description,
      ...(outerName === '' ? {} : { outerName }),
      kind,
      ...(statementText === null ? {} : { statementText }),
      rates: rates
        .filter(({ planId }) => planId === id)
        .map((rate) => ({ key: rate.key, name: rate.name, terms: rate.terms })),
    })),
    discounts: discounts.map(({ value, for: keys, codes }) => ({
      for: keys ?? [],
      value,
      codes: codes ?? [],
    })),
  };
}

/** Takes a file of what is offered: a dry run says what differs from what is stored; otherwise that is done. */
export async function importOffer(
  almanac: Almanac,
  asked: { readonly text: string; readonly dryRun: boolean; readonly update: boolean },
): Promise<OfferImport> {
  const file = { name: 'offer.json', text: asked.text };
  const differences = await differencesOf(almanac, file);
  const report = await importFiles(almanac, [file], { dryRun: asked.dryRun, update: asked.update });
  return {
    problems: report.problems.map(({ line, says }) => ({ line, says })),
    differences,
    added: report.added,
    changed: report.changed,
  };
}

/** What of a file is new, the same, or differs, and in which members of the terms. */
async function differencesOf(
  almanac: Almanac,
  file: { name: string; text: string },
): Promise<OfferDifference[]> {
  const offer = readPlans(file, []);
  if (offer === null) return [];
  const differences: OfferDifference[] = [];
  for (const { key, name, rates } of offer.plans) {
    const plan = await Plan.findOne({ where: { key } });
    for (const wanted of rates) {
      const what = `${name}, ${wanted.name}`;
      const rate = plan && (await Rate.findOne({ where: { planId: plan.id, key: wanted.key } }));
      if (!rate) differences.push({ what, how: plan ? 'new rate' : 'new plan', members: [] });
      else if (sameRate(rate, wanted)) differences.push({ what, how: 'same', members: [] });
      else differences.push({ what, how: 'differs', members: membersThatDiffer(rate, wanted) });
    }
  }
  for (const { value } of offer.discounts ?? []) {
    const known = await almanac.db.row(
      'select 1 from discounts where lower(name) = lower($name) and archived_on is null',
      { name: value.name },
    );
    differences.push({ what: value.name, how: known ? 'same' : 'new discount', members: [] });
  }
  return differences;
}

function membersThatDiffer(rate: Rate, wanted: { name: string; terms: object }): OfferDifference['members'] {
  const stored = { name: rate.name, ...(JSON.parse(JSON.stringify(rate.terms)) as Record<string, unknown>) };
  const file = { name: wanted.name, ...wanted.terms } as Record<string, unknown>;
  return [...new Set([...Object.keys(stored), ...Object.keys(file)])]
    .filter((member) => !isDeepStrictEqual((stored as Record<string, unknown>)[member], file[member]))
    .map((member) => ({
      member,
      stored: JSON.stringify((stored as Record<string, unknown>)[member]) ?? '',
      file: JSON.stringify(file[member]) ?? '',
    }));
}
