import type { Transaction } from 'sequelize';
import { faultsOfPrice, type LinePrices } from '../../core/offer/prices.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { groupNamed } from '../customers/groups.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { freeKey, keyOf } from '../plans/keys.ts';
import { Rate } from '../plans/Rate.ts';
import { differenceOf } from '../settings/settings.ts';
import type { RateCardValue, RateCardView } from './messages.ts';

const VALUE = `c.name, c.given_by as "givenBy", coalesce(g.name, '') as "group", c.code, c.valid_from as "validFrom",
  c.valid_to as "validTo",
  (select coalesce(json_agg(json_build_object('rateId', x.rate_id::text, 'variantId', x.variant_id::text, 'prices', x.prices)
          order by x.rate_id, x.variant_id nulls first), '[]') from rate_card_prices x where x.card_id = c.id) as prices`;
const LIST = `select c.id::text, c.key, c.version, c.archived_on as "archivedOn", ${VALUE},
    (select count(*)::int from subscriptions s where s.rate_card_id = c.id and s.state not in ('lapsed', 'ended')) as taken
  from rate_cards c left join customer_groups g on g.id = c.group_id`;

/** One page of the rate cards; `state` is 'in use' or 'archived'. */
export async function listRateCards(almanac: Almanac, query: ListQuery): Promise<Page<RateCardView>> {
  const page = await readPage<Omit<RateCardView, 'says'>>(
    almanac.db,
    {
      select: `${LIST} where c.name ilike $pattern and (c.archived_on is not null) = ($state = 'archived')`,
      bound: { pattern: likePattern(query.search), state: query.state },
      sorts: { name: 'name', taken: 'taken' },
    },
    query,
  );
  return { ...page, rows: page.rows.map((row) => ({ ...row, says: sayCard(row) })) };
}

/** One rate card, or a refusal where there is none. */
export async function readRateCard(
  almanac: Almanac,
  id: string,
  within?: Transaction,
): Promise<RateCardView> {
  const row = await almanac.db.row<Omit<RateCardView, 'says'>>(`${LIST} where c.id = $id`, { id }, within);
  if (!row) throw new RefusedCommand(404, 'There is no such rate card.');
  return { ...row, says: sayCard(row) };
}

/** Who may have a rate card and when, in plain words. */
function sayCard({ givenBy, group, code, validFrom, validTo }: RateCardValue): string {
  const who = { group: `For the group ${group}`, code: `With the code ${code}`, hand: 'Given by hand' }[
    givenBy
  ];
  return [
    who,
    validFrom === null ? '' : `from ${sayDate(validFrom)}`,
    validTo === null ? '' : `no longer from ${sayDate(validTo)}`,
  ]
    .filter(Boolean)
    .join(', ');
}

/** Makes a rate card. */
export function makeRateCard(almanac: Almanac, value: RateCardValue): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) => {
    const id = await addRateCard(almanac, null, value, within);
    await recordDone(almanac, { did: 'made a rate card', subject: value.name, after: value }, within);
    return { id };
  });
}

/** Writes a rate card down, under a key of its own where a file gives it none. */
export async function addRateCard(
  almanac: Almanac,
  key: string | null,
  value: RateCardValue,
  within: Transaction,
): Promise<string> {
  await requireGoodCard(almanac, value, '', within);
  const made = await almanac.db.row<{ id: string }>(
    `insert into rate_cards (key, name, given_by, group_id, code, valid_from, valid_to)
     values ($key, $name, $givenBy, $groupId, $code, $validFrom, $validTo) returning id::text`,
    {
      key: key ?? (await freeKey(almanac, { table: 'rate_cards' }, keyOf(value.name), within)),
      ...(await storedOf(almanac, value, within)),
    },
    within,
  );
  await writePrices(almanac, made?.id ?? '', value, within);
  return made?.id ?? '';
}

/** Changes a rate card for those who take it from now on; those who have it keep the prices they agreed to. */
export async function changeRateCard(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: RateCardValue },
  partOf?: Transaction,
): Promise<void> {
  if (!partOf) return almanac.db.transaction((within) => changeRateCard(almanac, id, edit, within));
  const locked = await almanac.db.row<{ who: string }>(
    'select changed_by as who from rate_cards where id = $id for update',
    { id },
    partOf,
  );
  const { name, givenBy, group, code, validFrom, validTo, prices, version } = await readRateCard(
    almanac,
    id,
    partOf,
  );
  const before = { name, givenBy, group, code, validFrom, validTo, prices };
  if (version !== edit.version)
    throw new ConflictingEdit({ value: before, version, changedBy: locked?.who ?? '' });
  await requireGoodCard(almanac, edit.value, id, partOf);
  await almanac.db.rows(
    `update rate_cards set name = $name, given_by = $givenBy, group_id = $groupId, code = $code,
       valid_from = $validFrom, valid_to = $validTo, version = version + 1, changed_by = $who where id = $id`,
    { id, who: askerNow().who, ...(await storedOf(almanac, edit.value, partOf)) },
    partOf,
  );
  await almanac.db.rows('delete from rate_card_prices where card_id = $id', { id }, partOf);
  await writePrices(almanac, id, edit.value, partOf);
  const done = { did: 'changed a rate card', subject: edit.value.name, ...differenceOf(before, edit.value) };
  await recordDone(almanac, done, partOf);
}

/** Refuses to restore a rate card whose name or code another has taken, or whose prices are not good any more. */
export async function requireCardFree(almanac: Almanac, id: string, within: Transaction): Promise<void> {
  await requireGoodCard(almanac, await readRateCard(almanac, id, within), id, within);
}

async function storedOf(almanac: Almanac, value: RateCardValue, within: Transaction) {
  const { name, givenBy, group, code, validFrom, validTo } = value;
  return {
    name,
    givenBy,
    groupId: givenBy === 'group' ? await groupNamed(almanac, group, within) : null,
    code: givenBy === 'code' ? code : null,
    validFrom,
    validTo,
  };
}

async function writePrices(
  almanac: Almanac,
  id: string,
  value: RateCardValue,
  within: Transaction,
): Promise<void> {
  for (const { rateId, variantId, prices } of value.prices) {
    if (prices.every((price) => price === null)) continue;
    await almanac.db.rows(
      `insert into rate_card_prices (card_id, rate_id, variant_id, prices) values ($id, $rateId, $variantId, $prices::jsonb)`,
      { id, rateId, variantId, prices: JSON.stringify(prices) },
      within,
    );
  }
}

async function requireGoodCard(
  almanac: Almanac,
  value: RateCardValue,
  id: string,
  within: Transaction,
): Promise<void> {
  const under = id === '' ? '' : '/value';
  const taken = await almanac.db.row<{ name: boolean; code: boolean }>(
    `select bool_or(lower(name) = lower($name)) as name, bool_or(code = $code) or exists (select 1 from discount_codes d where d.code = $code) as code
     from rate_cards where archived_on is null and id::text <> $id`,
    { name: value.name, code: value.givenBy === 'code' ? value.code : null, id },
    within,
  );
  if (taken?.name)
    throw new RefusedCommand(422, 'There is a rate card of this name already.', `${under}/name`);
  if (taken?.code) throw new RefusedCommand(422, 'This code is taken already.', `${under}/code`);
  const rates = await Rate.findAll({
    where: { id: value.prices.map(({ rateId }) => rateId) },
    transaction: within,
  });
  const faults = value.prices.flatMap(({ rateId, prices }, i) => {
    const rate = rates.find((one) => one.id === rateId);
    if (!rate) return [{ pointer: `${under}/prices/${i}/rateId`, detail: 'There is no such rate.' }];
    return faultsOfPrices(prices, rate.terms.currency, `${under}/prices/${i}/prices`);
  });
  if (faults.length > 0) throw new RefusedTerms(faults);
}

/** What is wrong with prices laid over the lines of a rate. */
export function faultsOfPrices(prices: LinePrices, currency: string, under: string) {
  return prices.flatMap((price, i) =>
    price === null
      ? []
      : faultsOfPrice(price, currency).map(({ pointer, detail }) => ({
          pointer: `${under}/${i}${pointer}`,
          detail,
        })),
  );
}
