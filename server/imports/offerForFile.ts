import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { addressesIn } from '../branding/pictureAddresses.ts';
import type { DiscountValue } from '../discounts/messages.ts';
import { Plan } from '../plans/Plan.ts';
import { mayDoOf, optionsOf } from '../plans/plans.ts';
import { Rate } from '../plans/Rate.ts';
import { variantsOf } from '../plans/variants.ts';
import type { FileCard, FileDiscount, FilePlan, FileRate, PlanFile } from './planFile.ts';

type Stored = Required<PlanFile>;

/**
 * What is offered as a file would say it in full: plans, their rates and variants, rate cards, and discounts with the
 * codes that many may use. Things are named by keys, taxes and gateway accounts by name, pictures and documents by
 * their addresses, under which `files` holds them.
 */
export async function offerForFile(
  almanac: Almanac,
  also: { readonly archived?: boolean; readonly files?: boolean },
  within?: Transaction,
): Promise<Stored> {
  const find = {
    ...(also.archived ? {} : { where: { archivedOn: null } }),
    ...(within ? { transaction: within } : {}),
  };
  const plans = await Plan.findAll({ ...find, order: ['id'] });
  const rates = await Rate.findAll({ ...find, order: ['id'] });
  const ids = plans.map(({ id }) => id);
  const variants = (await variantsOf(almanac, ids, within)).filter(
    ({ archivedOn }) => also.archived || archivedOn === null,
  );
  const names = await namesFor(almanac, plans, within);
  // Prices of what is archived are not offered: they stay where they are, and in no file.
  const sold = rates.filter(({ archivedOn }) => archivedOn === null);
  const keyOfRate = new Map(sold.map(({ id, key }) => [id, key]));
  const filePlans = plans.map((plan): FilePlan => {
    const own = rates.filter(({ planId }) => planId === plan.id);
    return {
      ...factsOf(plan, keyOfRate, names),
      rates: own.map((rate) => rateForFile(rate, names)),
      variants: variants
        .filter(({ planId }) => planId === plan.id)
        .map(({ key, name, says, prices, rates: offered }) => ({
          ...{ key, name, says },
          rates: offered.flatMap((id) => keyOfRate.get(id) ?? []).toSorted(),
          prices: Object.fromEntries(
            Object.entries(prices).flatMap(([id, of]) => {
              const rateKey = keyOfRate.get(id);
              return rateKey === undefined ? [] : [[rateKey, of]];
            }),
          ),
        })),
    };
  });
  return {
    plans: filePlans,
    rateCards: await cardsForFile(almanac, also.archived ?? false, within),
    discounts: await discountsForFile(almanac, also.archived ?? false, within),
    files: also.files ? await filesOf(almanac, filePlans, within) : {},
  };
}

/** The same without what says nothing, as it is given out. */
export function withoutEmpty({ plans, rateCards, discounts, files }: Stored): object {
  const lean = (one: object) =>
    Object.fromEntries(
      Object.entries(one).filter(
        ([, value]) => value !== null && value !== '' && !(Array.isArray(value) && value.length === 0),
      ),
    );
  return {
    plans: plans.map((plan) => ({
      ...lean({ ...plan, rates: undefined }),
      description: plan.description,
      ...lean({
        variants: plan.variants?.map(({ rates, ...variant }) =>
          rates.length === 0 ? variant : { ...variant, rates },
        ),
      }),
      rates: plan.rates.map((rate) => ({
        ...rate,
        tax: rate.tax === 'default' ? undefined : rate.tax,
        options: {
          ...rate.options,
          gateways: rate.options?.gateways?.length ? rate.options.gateways : undefined,
        },
      })),
    })),
    ...lean({ rateCards }),
    discounts,
    ...(Object.keys(files).length === 0 ? {} : { files }),
  };
}

interface Names {
  readonly addressOf: ReadonlyMap<string, string>;
  readonly taxes: ReadonlyMap<string, string>;
  readonly gateways: ReadonlyMap<string, string>;
}

/** What the ids in plans and rates are called in files. */
async function namesFor(almanac: Almanac, plans: readonly Plan[], within?: Transaction): Promise<Names> {
  const uploads = plans.flatMap(({ picture, documents }) => [
    ...(picture === null ? [] : [picture]),
    ...documents.map(({ upload }) => upload),
  ]);
  const named = async (statement: string, bound = {}) => {
    const rows = await almanac.db.rows<{ id: string; name: string }>(statement, bound, within);
    return new Map(rows.map(({ id, name }) => [id, name]));
  };
  return {
    addressOf: await named(
      'select id::text, address as name from uploads where id = any($uploads::bigint[])',
      { uploads },
    ),
    taxes: await named('select id::text, name from taxes'),
    gateways: await named('select id::text, name from gateway_accounts'),
  };
}

function factsOf(plan: Plan, keyOfRate: ReadonlyMap<string, string>, { addressOf }: Names) {
  const { key, name, description, outerName, kind, statementText, asks, extras, onInvoices } = plan;
  return {
    ...{ key, name, description, outerName, kind, statementText, asks, extras, onInvoices },
    firstRate: keyOfRate.get(plan.firstRate ?? '') ?? null,
    picture: addressOf.get(plan.picture ?? '') ?? null,
    documents: plan.documents.map((document) => ({
      name: document.name,
      file: addressOf.get(document.upload) ?? '',
    })),
    mayDo: mayDoOf(plan),
  };
}

function rateForFile(rate: Rate, { taxes, gateways: names }: Names): FileRate {
  const { gateways, ...options } = optionsOf(rate);
  const { taxChoice } = rate;
  return {
    key: rate.key,
    name: rate.name,
    terms: { ...rate.terms },
    tax: taxChoice.kind === 'tax' ? { named: taxes.get(taxChoice.id) ?? '' } : taxChoice.kind,
    options: { ...options, gateways: gateways.map((id) => names.get(id) ?? '') },
  };
}

async function cardsForFile(almanac: Almanac, archived: boolean, within?: Transaction): Promise<FileCard[]> {
  const cards = await almanac.db.rows<Omit<FileCard, 'prices'> & { prices: FileCard['prices'] | null }>(
    `select c.key, c.name, c.given_by as "givenBy", coalesce(g.name, '') as "group", c.code,
       c.valid_from as "validFrom", c.valid_to as "validTo",
       (select json_agg(json_strip_nulls(json_build_object('plan', p.key, 'rate', r.key, 'variant', v.key))::jsonb
                        || jsonb_build_object('prices', x.prices) order by x.rate_id, x.variant_id nulls first)
        from rate_card_prices x join rates r on r.id = x.rate_id join plans p on p.id = r.plan_id
        left join variants v on v.id = x.variant_id
        where x.card_id = c.id and r.archived_on is null and p.archived_on is null and v.archived_on is null) as prices
     from rate_cards c left join customer_groups g on g.id = c.group_id
     where $archived or c.archived_on is null order by c.id`,
    { archived },
    within,
  );
  return cards.flatMap(({ prices, ...card }) =>
    prices || archived ? [{ ...card, prices: prices ?? [] }] : [],
  );
}

async function discountsForFile(
  almanac: Almanac,
  archived: boolean,
  within?: Transaction,
): Promise<FileDiscount[]> {
  const rows = await almanac.db.rows<{
    value: DiscountValue;
    for: string[] | null;
    with_archived: string[] | null;
    codes: string[] | null;
  }>(
    `select json_build_object('name', name, 'as', case when percent is null then 'amount' else 'percent' end,
         'off', coalesce(percent, amount), 'currency', currency, 'payments', payments, 'appliesTo', applies_to,
         'plans', '[]'::json, 'validFrom', valid_from, 'validTo', valid_to, 'mostUses', most_uses,
         'mostPerCustomer', most_per_customer, 'stacks', stacks) as value,
       (select array_agg(key order by key) from plans p where p.id = any(d.plans) and p.archived_on is null) as for,
       (select array_agg(key order by key) from plans p where p.id = any(d.plans)) as with_archived,
       (select array_agg(code order by id) from discount_codes c where c.discount_id = d.id and c.most_uses is null) as codes
     from discounts d where archived_on is null order by id`,
    {},
    within,
  );
  // Without plans it would be for all of them: one that is for archived plans alone is not offered.
  return rows.flatMap(({ value, for: keys, with_archived, codes }) =>
    keys || archived || !with_archived
      ? [{ for: keys ?? with_archived ?? [], value, codes: codes ?? [] }]
      : [],
  );
}

/** The pictures and documents that plans show. */
async function filesOf(
  almanac: Almanac,
  plans: readonly FilePlan[],
  within?: Transaction,
): Promise<Stored['files']> {
  const addresses = plans.flatMap(({ picture, documents = [], description }) => [
    ...(picture ? [picture] : []),
    ...documents.map(({ file }) => file),
    ...addressesIn(description),
  ]);
  const rows = await almanac.db.rows<{ address: string; name: string; bytes: Buffer }>(
    'select address, name, bytes from uploads where address = any($addresses) order by id',
    { addresses },
    within,
  );
  return Object.fromEntries(
    rows.map(({ address, name, bytes }) => [address, { name, data: bytes.toString('base64') }]),
  );
}
