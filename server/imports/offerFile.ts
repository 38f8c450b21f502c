import { isDeepStrictEqual } from 'node:util';
import type { Almanac } from '../almanac.ts';
import type { DiscountValue } from '../discounts/messages.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import { mayDoOf, optionsOf } from '../plans/plans.ts';
import { variantsOf } from '../plans/variants.ts';
import { readRateCard } from '../rateCards/rateCards.ts';
import { cardValue, planMembersThatDiffer, sameCard, sameRate } from './addOffer.ts';
import { importFiles, readPlans } from './importFiles.ts';
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
  const variants = (
    await variantsOf(
      almanac,
      plans.map(({ id }) => id),
    )
  ).filter(({ archivedOn }) => archivedOn === null);
  const keyOfRate = new Map(rates.map(({ id, key }) => [id, key]));
  const cards = await readCardsForFile(almanac);
  return {
    plans: plans.map((plan) => {
      const { id, key, name, description, outerName, kind, statementText, asks, extras } = plan;
      const own = variants.filter(({ planId }) => planId === id);
      return {
        key,
        name,
        description,
        ...(outerName === '' ? {} : { outerName }),
        kind,
        ...(statementText === null ? {} : { statementText }),
        ...(asks.length === 0 ? {} : { asks }),
        ...(extras.length === 0 ? {} : { extras }),
        mayDo: mayDoOf(plan),
        rates: rates.filter(({ planId }) => planId === id).map(rateForFile),
        ...(own.length === 0
          ? {}
          : {
              variants: own.map(({ key: named, name: called, says, prices }) => ({
                ...{ key: named, name: called, says },
                prices: Object.fromEntries(
                  Object.entries(prices).flatMap(([rateId, of]) => {
                    const rateKey = keyOfRate.get(rateId);
                    return rateKey === undefined ? [] : [[rateKey, of]];
                  }),
                ),
              })),
            }),
      };
    }),
    ...(cards.length === 0 ? {} : { rateCards: cards }),
    discounts: discounts.map(({ value, for: keys, codes }) => ({
      for: keys ?? [],
      value,
      codes: codes ?? [],
    })),
  };
}

function rateForFile(rate: Rate) {
  const { gateways: _, ...options } = optionsOf(rate);
  return { key: rate.key, name: rate.name, terms: rate.terms, options };
}

/** The rate cards in use, with the keys of plans, rates and variants. */
function readCardsForFile(almanac: Almanac): Promise<object[]> {
  return almanac.db.rows(
    `select c.key, c.name, c.given_by as "givenBy", coalesce(g.name, '') as "group", c.code,
       c.valid_from as "validFrom", c.valid_to as "validTo",
       (select json_agg(json_strip_nulls(json_build_object('plan', p.key, 'rate', r.key, 'variant', v.key))::jsonb
                        || jsonb_build_object('prices', x.prices) order by x.rate_id, x.variant_id nulls first)
        from rate_card_prices x join rates r on r.id = x.rate_id join plans p on p.id = r.plan_id
        left join variants v on v.id = x.variant_id where x.card_id = c.id) as prices
     from rate_cards c left join customer_groups g on g.id = c.group_id where c.archived_on is null order by c.id`,
  );
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
  for (const wanted of offer.plans) {
    const { key, name, rates, variants = [] } = wanted;
    const plan = await Plan.findOne({ where: { key } });
    const ofPlan = plan ? planMembersThatDiffer(plan, wanted).map(inJson) : [];
    if (ofPlan.length > 0) differences.push({ what: name, how: 'differs', members: ofPlan });
    for (const one of rates) {
      const what = `${name}, ${one.name}`;
      const rate = plan && (await Rate.findOne({ where: { planId: plan.id, key: one.key } }));
      if (!rate) differences.push({ what, how: plan ? 'new rate' : 'new plan', members: [] });
      else if (sameRate(rate, one)) differences.push({ what, how: 'same', members: [] });
      else differences.push({ what, how: 'differs', members: membersThatDiffer(rate, one) });
    }
    const known = plan ? await variantsOf(almanac, [plan.id]) : [];
    const stored = plan ? await Rate.findAll({ where: { planId: plan.id } }) : [];
    for (const variant of variants) {
      const there = known.find((one) => one.key === variant.key);
      const what = `${name}, variant ${variant.name}`;
      if (!there) differences.push({ what, how: 'new variant', members: [] });
      else {
        const byKey = Object.entries(there.prices).map(([id, of]) => [
          stored.find((rate) => rate.id === id)?.key ?? id,
          of,
        ]);
        const now = { name: there.name, says: there.says, prices: Object.fromEntries(byKey) as unknown };
        const file = { name: variant.name, says: variant.says, prices: variant.prices };
        differences.push(held(what, now, file));
      }
    }
  }
  for (const card of offer.rateCards ?? []) {
    const known = await almanac.db.row<{ id: string }>('select id::text from rate_cards where key = $key', {
      key: card.key,
    });
    const value = known && (await cardValue(almanac, card, undefined, () => undefined));
    const what = `Rate card ${card.name}`;
    if (!known || !value) {
      differences.push({ what, how: known ? 'differs' : 'new rate card', members: [] });
      continue;
    }
    const { name, givenBy, group, code, validFrom, validTo, prices } = await readRateCard(almanac, known.id);
    const now = { name, givenBy, group, code, validFrom, validTo, prices };
    differences.push(sameCard(now, value) ? { what, how: 'same', members: [] } : held(what, now, value));
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

function membersThatDiffer(
  rate: Rate,
  wanted: { name: string; terms: object; options?: object | undefined },
): OfferDifference['members'] {
  const { gateways: _, ...options } = optionsOf(rate);
  const stored = { name: rate.name, ...rate.terms, ...(wanted.options ? { options } : {}) };
  const file = { name: wanted.name, ...wanted.terms, ...(wanted.options ? { options: wanted.options } : {}) };
  return held('', stored, file).members;
}

/** One thing as it is stored, held against a file, member by member. */
function held(what: string, stored: object, file: object): OfferDifference {
  const [now, then] = [stored, file].map(
    (of) => JSON.parse(JSON.stringify(of)) as Record<string, unknown>,
  ) as [Record<string, unknown>, Record<string, unknown>];
  const members = [...new Set([...Object.keys(now), ...Object.keys(then)])]
    .filter((member) => !isDeepStrictEqual(now[member], then[member]))
    .map((member) => inJson({ member, stored: now[member], file: then[member] }));
  return { what, how: members.length === 0 ? 'same' : 'differs', members };
}

const inJson = ({ member, stored, file }: { member: string; stored: unknown; file: unknown }) => ({
  member,
  stored: JSON.stringify(stored) ?? '',
  file: JSON.stringify(file) ?? '',
});
