import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { FirstDue } from '../../core/listing/firstDues.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { unnested } from '../db/unnested.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';
import type { reckoningSchema, ReckoningView } from './messages.ts';
import { duesOf, reckon, sayReckoning, type Reckoning, type TaxedAs } from './reckon.ts';

/** So many days a reckoning is good for. */
export const GOOD_DAYS = 14;

/** What of a reckoning is frozen. */
type Frozen = Omit<Reckoning, 'plan' | 'rate' | 'rateVersion' | 'pricedOn'>;

/** A reckoning as it was kept. */
export interface KeptReckoning {
  readonly id: string;
  readonly customerId: string | null;
  readonly dues: readonly FirstDue[];
  readonly reckoning: Reckoning;
}

/** A reckoning that is to be kept, for somebody. */
interface ToKeep {
  readonly reckoning: Reckoning;
  readonly who: TaxedAs & { readonly customerId: string | null };
  /** Its first charges, where they are known already. */
  readonly dues?: readonly FirstDue[];
  readonly madeBy: string;
}

/** Keeps reckonings, with their first charges and their words as they are for somebody, in one statement. */
export async function keepReckonings(
  almanac: Almanac,
  all: readonly ToKeep[],
  within: Transaction,
): Promise<ReckoningView[]> {
  if (all.length === 0) return [];
  const views: Omit<ReckoningView, 'id'>[] = [];
  for (const { reckoning, who, dues } of all) {
    const { pricedOn } = reckoning;
    views.push({
      says: await sayReckoning(almanac, reckoning, who, within),
      currency: reckoning.terms.currency,
      dues: dues ?? (await duesOf(almanac, reckoning, who, within)),
      ...{ pricedOn, goodUntil: formatDay(toDay(pricedOn) + GOOD_DAYS) },
    });
  }
  const { table, bound } = unnested(
    {
      ...{ customer_id: 'bigint', rate_id: 'bigint', rate_version: 'int', currency: 'text', frozen: 'jsonb' },
      ...{ dues: 'jsonb', says: 'text', priced_on: 'date', good_until: 'date', made_by: 'text' },
    },
    all.map(({ reckoning, who, madeBy }, i) => {
      const { plan: _, rate, rateVersion, pricedOn: _on, ...frozen } = reckoning;
      const view = views[i];
      return {
        ...{ customer_id: who.customerId, rate_id: rate.id, rate_version: rateVersion, made_by: madeBy },
        ...{ frozen: JSON.stringify(frozen), dues: JSON.stringify(view?.dues ?? []), says: view?.says ?? '' },
        currency: view?.currency ?? '',
        ...{ priced_on: view?.pricedOn ?? null, good_until: view?.goodUntil ?? null },
      };
    }),
  );
  // They are numbered in their order, so that each finds its own.
  const kept = await almanac.db.rows<{ id: string }>(
    `insert into reckonings (customer_id, rate_id, rate_version, currency, frozen, dues, says, priced_on, good_until, made_by)
     select customer_id, rate_id, rate_version, currency, frozen, dues, says, priced_on, good_until, made_by from ${table} order by place
     returning id::text`,
    bound,
    within,
  );
  return views.map((view, i) => ({ ...view, id: kept[i]?.id ?? '' }));
}

/** Prices a choice once, and keeps what it comes to. */
export function makeReckoning(
  almanac: Almanac,
  wanted: z.output<typeof reckoningSchema>,
): Promise<ReckoningView> {
  return almanac.db.transaction(async (within) => {
    const on = await businessDateOf(almanac, within);
    const { customer: asked, paidAs, ...choice } = wanted;
    const known = 'id' in asked ? await Customer.findByPk(asked.id, { transaction: within }) : null;
    if ('id' in asked && !known) throw new RefusedCommand(422, 'Choose a customer.', '/customer');
    const told = 'id' in asked ? { country: '', region: '', tax_exempt: '', group: '' } : asked;
    const customerId = known?.id ?? null;
    const reckoning = await reckon(almanac, choice, { customerId, group: told.group, on }, within);
    const who = known ?? {
      ...{ country: told.country === '' ? null : told.country, region: told.region },
      taxExempt: told.tax_exempt,
    };
    const { country, region, taxExempt } = who;
    const kept = {
      reckoning,
      who: { country, region, taxExempt, customerId, paidAs },
      madeBy: askerNow().who,
    };
    const [view] = await keepReckonings(almanac, [kept], within);
    if (!view) throw new Error('The reckoning was not kept.');
    return view;
  });
}

/** A reckoning that was kept, or a refusal. */
export async function readReckoning({ db }: Almanac, id: string): Promise<ReckoningView> {
  const found = await db.row<ReckoningView>(
    `select id::text, says, currency, dues, priced_on as "pricedOn", good_until as "goodUntil" from reckonings where id = $id`,
    { id },
  );
  if (!found) throw new RefusedCommand(404, 'There is no such reckoning.');
  return found;
}

/** A reckoning that is to be accepted on a day, locked; a refusal where it is over, was accepted, or has begun. */
export async function openReckoning(
  almanac: Almanac,
  id: string,
  on: string,
  within: Transaction,
): Promise<KeptReckoning> {
  const row = await almanac.db.row<{
    customerId: string | null;
    rateId: string;
    rateVersion: number;
    frozen: Frozen;
    dues: FirstDue[];
    pricedOn: string;
    goodUntil: string;
  }>(
    `select k.customer_id::text as "customerId", k.rate_id::text as "rateId", k.rate_version as "rateVersion", k.frozen, k.dues, k.priced_on as "pricedOn",
       k.good_until as "goodUntil"
     from reckonings k where k.id = $id for update`,
    { id },
    within,
  );
  if (!row) throw new RefusedCommand(404, 'There is no such reckoning.');
  // Asked once it is locked: whoever accepted it meanwhile is seen.
  const accepted = await almanac.db.row('select 1 from agreements where reckoning_id = $id', { id }, within);
  if (accepted) throw new RefusedCommand(409, 'This reckoning was accepted already.');
  if (row.goodUntil < on)
    throw new RefusedCommand(410, `This reckoning was good until ${sayDate(row.goodUntil)}. Make it anew.`);
  if (row.frozen.terms.starts < on)
    throw new RefusedCommand(
      410,
      `It was to start on ${sayDate(row.frozen.terms.starts)}, which is over. Make the reckoning anew.`,
    );
  const rate = await Rate.findByPk(row.rateId, { transaction: within, rejectOnEmpty: true });
  const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
  const { customerId, dues, rateVersion, pricedOn } = row;
  return { id, customerId, dues, reckoning: { ...row.frozen, plan, rate, rateVersion, pricedOn } };
}
