import type { Transaction } from 'sequelize';
import { faultsOfPrice } from '../../core/offer/prices.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { differenceOf } from '../settings/settings.ts';
import type { VariantValue, VariantView } from './choiceMessages.ts';
import { freeKey, keyOf } from './keys.ts';
import { Plan } from './Plan.ts';
import { Rate } from './Rate.ts';

type Stored = VariantView & { readonly planId: string };

/** The variants of plans, by their plan, in the order they were made. */
export async function variantsOf(
  almanac: Almanac,
  planIds: readonly string[],
  within?: Transaction,
): Promise<Stored[]> {
  return almanac.db.rows<Stored>(
    `select v.id::text, v.plan_id::text as "planId", v.key, v.name, v.says, v.prices, v.rates, v.version, v.archived_on as "archivedOn",
       (select count(*)::int from subscriptions s where s.variant_id = v.id and s.state not in ('lapsed', 'ended')) as subscribers
     from variants v where v.plan_id = any($planIds::bigint[]) order by v.id`,
    { planIds },
    within,
  );
}

/** Makes a variant of a plan. */
export function makeVariant(almanac: Almanac, planId: string, value: VariantValue): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) => {
    const plan = await Plan.findByPk(planId, { transaction: within, lock: within.LOCK.UPDATE });
    if (!plan) throw new RefusedCommand(404, 'There is no such plan.');
    await requireGoodVariant(almanac, planId, value, '', '', within);
    const key = await freeKey(almanac, { table: 'variants', planId }, keyOf(value.name), within);
    const id = await addVariant(almanac, { planId, key, value }, within);
    await recordDone(
      almanac,
      { did: 'made a variant', subject: `${plan.name}, ${value.name}`, after: value },
      within,
    );
    return { id };
  });
}

/** Writes a variant down. */
export async function addVariant(
  almanac: Almanac,
  { planId, key, value }: { readonly planId: string; readonly key: string; readonly value: VariantValue },
  within: Transaction,
): Promise<string> {
  const made = await almanac.db.row<{ id: string }>(
    `insert into variants (plan_id, key, name, says, prices, rates)
     values ($planId, $key, $name, $says, $prices::jsonb, $rates::jsonb) returning id::text`,
    {
      ...{ planId, key, name: value.name, says: value.says },
      ...{ prices: JSON.stringify(value.prices), rates: JSON.stringify(value.rates) },
    },
    within,
  );
  return made?.id ?? '';
}

/** Changes a variant for those who take it from now on; those who have it keep what they agreed to. */
export async function changeVariant(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: VariantValue },
  partOf?: Transaction,
): Promise<void> {
  if (!partOf) return almanac.db.transaction((within) => changeVariant(almanac, id, edit, within));
  const { planId, version, changedBy, ...before } = await lockedVariant(almanac, id, partOf);
  if (version !== edit.version) throw new ConflictingEdit({ value: before, version, changedBy });
  await requireGoodVariant(almanac, planId, edit.value, id, '/value', partOf);
  const { name, says, prices, rates } = edit.value;
  await almanac.db.rows(
    `update variants set name = $name, says = $says, prices = $prices::jsonb, rates = $rates::jsonb,
       version = version + 1, changed_by = $who where id = $id`,
    {
      ...{ id, who: askerNow().who, name, says },
      ...{ prices: JSON.stringify(prices), rates: JSON.stringify(rates) },
    },
    partOf,
  );
  const done = { did: 'changed a variant', subject: name, ...differenceOf(before, edit.value) };
  await recordDone(almanac, done, partOf);
}

async function lockedVariant(almanac: Almanac, id: string, within: Transaction) {
  const found = await almanac.db.row<VariantValue & { planId: string; version: number; changedBy: string }>(
    'select plan_id::text as "planId", version, changed_by as "changedBy", name, says, prices, rates from variants where id = $id for update',
    { id },
    within,
  );
  if (!found) throw new RefusedCommand(404, 'There is no such variant.');
  return found;
}

async function requireGoodVariant(
  almanac: Almanac,
  planId: string,
  value: VariantValue,
  id: string,
  under: string,
  within: Transaction,
): Promise<void> {
  const taken = await almanac.db.row(
    'select 1 from variants where plan_id = $planId and lower(name) = lower($name) and id::text <> $id',
    { planId, name: value.name, id },
    within,
  );
  if (taken) throw new RefusedCommand(422, 'This plan has a variant of this name.', `${under}/name`);
  const rates = await Rate.findAll({ where: { planId }, transaction: within });
  const strangers = value.rates.flatMap((rateId, i) =>
    rates.some((one) => one.id === rateId)
      ? []
      : [{ pointer: `${under}/rates/${i}`, detail: 'This is no rate of this plan.' }],
  );
  const faults = Object.entries(value.prices).flatMap(([rateId, prices]) => {
    const rate = rates.find((one) => one.id === rateId);
    if (!rate) return [{ pointer: `${under}/prices/${rateId}`, detail: 'This is no rate of this plan.' }];
    return prices.flatMap((price, i) =>
      price === null
        ? []
        : faultsOfPrice(price, rate.terms.currency).map(({ pointer, detail }) => ({
            pointer: `${under}/prices/${rateId}/${i}${pointer}`,
            detail,
          })),
    );
  });
  if (strangers.length + faults.length > 0) throw new RefusedTerms([...strangers, ...faults]);
}
