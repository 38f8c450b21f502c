import { randomInt } from 'node:crypto';
import { stringify } from 'csv-stringify/sync';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { minorDigits } from '../../core/money/currency.ts';
import { parseDecimal } from '../../core/money/decimal.ts';
import type { TermsDiscount } from '../../core/terms/schema.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import type { codesSchema, DiscountValue, DiscountView } from './messages.ts';

const VALUE = `d.name, case when d.percent is null then 'amount' else 'percent' end as "as", coalesce(d.percent, d.amount) as off,
  d.currency, d.payments, d.applies_to as "appliesTo", d.plans::text[] as plans, d.valid_from as "validFrom", d.valid_to as "validTo",
  d.most_uses as "mostUses", d.most_per_customer as "mostPerCustomer", d.stacks`;

type Row = Omit<DiscountView, 'says'> & { readonly planNames: string | null };

const LIST = `select d.id::text, d.version, d.used, d.archived_on as "archivedOn", ${VALUE},
    (select string_agg(p.name, ', ' order by p.name) from plans p where p.id = any(d.plans)) as "planNames",
    (select count(*)::int from discount_codes c where c.discount_id = d.id) as codes,
    (select coalesce(json_agg(json_build_object('code', c.code, 'used', c.used, 'mostUses', c.most_uses)), '[]')
     from (select code, used, most_uses from discount_codes where discount_id = d.id order by id limit 12) c) as "someCodes"
  from discounts d`;

/** One page of the discounts; `state` is 'in use', 'used up' or 'archived'. */
export async function listDiscounts(almanac: Almanac, query: ListQuery): Promise<Page<DiscountView>> {
  const page = await readPage<Row>(
    almanac.db,
    {
      select: `${LIST} where (d.name ilike $pattern or exists (select 1 from discount_codes c where c.discount_id = d.id and c.code ilike $pattern))
        and case $state when 'archived' then d.archived_on is not null
                        when 'used up' then d.archived_on is null and d.used >= d.most_uses
                        when 'in use' then d.archived_on is null and (d.most_uses is null or d.used < d.most_uses)
                        else d.archived_on is null end`,
      bound: { pattern: likePattern(query.search), state: query.state },
      sorts: { name: 'name', used: 'used', validTo: '"validTo"' },
    },
    query,
  );
  return { ...page, rows: page.rows.map(viewOf) };
}

function viewOf({ planNames, ...row }: Row): DiscountView {
  return { ...row, says: sayDiscount(row, planNames) };
}

/** A discount in plain words: what it takes off, how long, of what, and how often it can be used. */
function sayDiscount(discount: DiscountValue, planNames: string | null): string {
  const { as, off, currency, payments, appliesTo, mostUses, mostPerCustomer, stacks, validFrom, validTo } =
    discount;
  const minor = currency === null ? 0n : parseDecimal(off, minorDigits(currency));
  const what = as === 'percent' ? `${off}%` : sayAmount(minor, currency ?? 'GBP');
  const from = { recurring: 'what recurs', once: 'amounts once', all: 'everything' }[appliesTo];
  const long = payments === null ? 'always' : payments === 1 ? 'once' : `for ${payments} payments`;
  return [
    `${what} off ${from}, ${long}`,
    planNames === null ? 'for all plans' : `for ${planNames}`,
    validFrom === null ? '' : `from ${sayDate(validFrom)}`,
    validTo === null ? '' : `no longer from ${sayDate(validTo)}`,
    mostUses === null ? '' : `at most ${mostUses} times in all`,
    mostPerCustomer === null ? '' : `at most ${mostPerCustomer} times a customer`,
    stacks ? 'beside other codes' : 'alone, not beside other codes',
  ]
    .filter(Boolean)
    .join('; ');
}

const stored = (value: DiscountValue) => ({
  name: value.name,
  percent: value.as === 'percent' ? value.off : null,
  amount: value.as === 'amount' ? value.off : null,
  currency: value.as === 'amount' ? value.currency : null,
  payments: value.payments,
  appliesTo: value.appliesTo,
  plans: `{${value.plans.join(',')}}`,
  validFrom: value.validFrom,
  validTo: value.validTo,
  mostUses: value.mostUses,
  mostPerCustomer: value.mostPerCustomer,
  stacks: value.stacks,
});

/** Makes a discount. It can be used once it has a code. */
export function makeDiscount(almanac: Almanac, value: DiscountValue): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) => {
    await requireFreeName(almanac, value.name, '', within);
    const id = await addDiscount(almanac, value, [], within);
    await recordDone(almanac, { did: 'made a discount', subject: value.name, after: value }, within);
    return { id };
  });
}

/** Writes a discount down, with codes that many may use; codes that are taken are passed over. */
export async function addDiscount(
  almanac: Almanac,
  value: DiscountValue,
  codes: readonly string[],
  within: Transaction,
): Promise<string> {
  const made = await almanac.db.row<{ id: string }>(
    `insert into discounts (name, percent, amount, currency, payments, applies_to, plans, valid_from, valid_to,
                            most_uses, most_per_customer, stacks)
     values ($name, $percent, $amount, $currency, $payments, $appliesTo, $plans::bigint[], $validFrom, $validTo,
             $mostUses, $mostPerCustomer, $stacks) returning id::text`,
    stored(value),
    within,
  );
  const id = made?.id ?? '';
  await addCodes(almanac, id, codes, within);
  return id;
}

/** Gives a discount codes that many may use; codes that are taken are passed over. */
export async function addCodes(
  almanac: Almanac,
  id: string,
  codes: readonly string[],
  within: Transaction,
): Promise<void> {
  await almanac.db.rows(
    `insert into discount_codes (discount_id, code) select $id, code from unnest($codes::text[]) as code
     on conflict do nothing`,
    { id, codes },
    within,
  );
}

/** Changes a discount, for those who use it from now on. What was taken off stays in the terms agreed to. */
export async function changeDiscount(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: DiscountValue },
  partOf?: Transaction,
): Promise<void> {
  if (!partOf) return almanac.db.transaction((within) => changeDiscount(almanac, id, edit, within));
  const before = await lockedDiscount(almanac, id, partOf);
  const { version, used, changedBy, ...value } = before;
  if (version !== edit.version) throw new ConflictingEdit({ value, version, changedBy });
  await requireFreeName(almanac, edit.value.name, id, partOf);
  if (edit.value.mostUses !== null && edit.value.mostUses < used)
    throw new RefusedCommand(422, `It has been used ${used} times already.`, '/value/mostUses');
  await almanac.db.rows(
    `update discounts set name = $name, percent = $percent, amount = $amount, currency = $currency,
       payments = $payments, applies_to = $appliesTo, plans = $plans::bigint[], valid_from = $validFrom,
       valid_to = $validTo, most_uses = $mostUses, most_per_customer = $mostPerCustomer, stacks = $stacks,
       version = version + 1, changed_by = $who where id = $id`,
    { ...stored(edit.value), id, who: askerNow().who },
    partOf,
  );
  const done = { did: 'changed a discount', subject: edit.value.name, before: value, after: edit.value };
  await recordDone(almanac, done, partOf);
}

/** Refuses to restore a discount whose name another has taken. */
export async function requireDiscountFree(almanac: Almanac, id: string, within: Transaction): Promise<void> {
  const { name } = await lockedDiscount(almanac, id, within);
  await requireFreeName(almanac, name, id, within);
}

async function lockedDiscount(almanac: Almanac, id: string, within: Transaction) {
  const row = await almanac.db.row<DiscountValue & { version: number; used: number; changedBy: string }>(
    `select d.version, d.used, d.changed_by as "changedBy", ${VALUE} from discounts d where d.id = $id for update`,
    { id },
    within,
  );
  if (!row) throw new RefusedCommand(404, 'There is no such discount.');
  return row;
}

async function requireFreeName(
  almanac: Almanac,
  name: string,
  id: string,
  within: Transaction,
): Promise<void> {
  const taken = await almanac.db.row(
    'select 1 from discounts where lower(name) = lower($name) and archived_on is null and id::text <> $id',
    { name, id },
    within,
  );
  if (taken) throw new RefusedCommand(422, 'There is a discount of this name already.', '/value/name');
}

/** Letters and digits that nobody takes for each other. */
const ALPHABET = 'ABCDEFGHJKMNPQRSTUVWXYZ23456789';

/** Gives a discount one code that many may use, or many codes that can each be used once. */
export async function makeCodes(
  almanac: Almanac,
  id: string,
  wanted: z.output<typeof codesSchema>,
): Promise<{ codes: string[] }> {
  return almanac.db.transaction(async (within) => {
    const { name } = await lockedDiscount(almanac, id, within);
    const codes =
      wanted.kind === 'one'
        ? [wanted.code]
        : Array.from({ length: wanted.count }, () => {
            const letters = Array.from({ length: 10 }, () => ALPHABET[randomInt(ALPHABET.length)]).join('');
            return `${wanted.prefix === '' ? '' : `${wanted.prefix.replace(/-$/, '')}-`}${letters.slice(0, 5)}-${letters.slice(5)}`;
          });
    const made = await almanac.db.rows<{ code: string }>(
      `insert into discount_codes (discount_id, code, most_uses)
       select $id, given.code, $most::int from unnest($codes::text[]) as given (code)
       where not exists (select 1 from rate_cards k where k.code = given.code and k.archived_on is null) on conflict do nothing returning code`,
      { id, codes, most: wanted.kind === 'one' ? wanted.mostUses : 1 },
      within,
    );
    if (wanted.kind === 'one' && made.length === 0)
      throw new RefusedCommand(422, 'This code is taken already. Codes are never given twice.', '/code');
    await recordDone(almanac, { did: `made ${made.length} discount codes`, subject: name }, within);
    return { codes: made.map(({ code }) => code) };
  });
}

/** Every code of a discount as CSV (RFC 4180). */
export async function codesAsCsv(almanac: Almanac, id: string): Promise<string> {
  const rows = await almanac.db.rows<{ code: string; used: number; most: number | null }>(
    'select code, used, most_uses as most from discount_codes where discount_id = $id order by id',
    { id },
  );
  return stringify(rows, {
    header: true,
    columns: { code: 'code', used: 'used', most: 'most_uses' },
    record_delimiter: 'windows',
  });
}

/** What a code stands for, for terms of a plan and currency on a day; or a refusal in words for whoever typed it. */
export async function discountOfCode(
  almanac: Almanac,
  code: string,
  use: { readonly planId: string; readonly currency: string; readonly on: string },
  pointer: string,
  within?: Transaction,
): Promise<{ discountId: string; codeId: string; stacks: boolean; discount: TermsDiscount }> {
  const refuse = (says: string): never => {
    throw new RefusedCommand(422, says, pointer);
  };
  const row =
    (await almanac.db.row<
      DiscountValue & {
        id: string;
        codeId: string;
        used: number;
        codeUsed: number;
        codeMost: number | null;
        gone: boolean;
      }
    >(
      `select d.id::text, c.id::text as "codeId", d.used, c.used as "codeUsed", c.most_uses as "codeMost",
         d.archived_on is not null or c.withdrawn_on is not null as gone, ${VALUE}
       from discount_codes c join discounts d on d.id = c.discount_id where c.code = $code`,
      { code: code.trim().toUpperCase() },
      within,
    )) ?? refuse('This code is not known.');
  if (row.gone) refuse('This code is not valid any more.');
  if (row.validFrom !== null && use.on < row.validFrom)
    refuse(`This code is valid from ${sayDate(row.validFrom)}.`);
  if (row.validTo !== null && use.on >= row.validTo) refuse('This code is not valid any more.');
  if (row.plans.length > 0 && !row.plans.includes(use.planId)) refuse('This code is not for this plan.');
  if (row.as === 'amount' && row.currency !== use.currency)
    refuse(`This code is for prices in ${row.currency}.`);
  if (
    (row.codeMost !== null && row.codeUsed >= row.codeMost) ||
    (row.mostUses !== null && row.used >= row.mostUses)
  )
    refuse('This code has been used up.');
  const discount = {
    [row.as]: row.off,
    ...(row.payments === null ? {} : { payments: row.payments }),
    ...(row.appliesTo === 'recurring' ? {} : { to: row.appliesTo }),
  } as TermsDiscount;
  return { discountId: row.id, codeId: row.codeId, stacks: row.stacks, discount };
}

/**
 * Counts a use of a code, exactly: the row of the code, then that of its discount, is taken by one transaction at a
 * time, and the database refuses a count beyond its limit. Of a hundred who take the last use at once, one gets it.
 */
export async function useCode(
  almanac: Almanac,
  use: {
    readonly discountId: string;
    readonly codeId: string;
    readonly customerId: string;
    readonly subscriptionId: string;
    readonly on: string;
  },
  pointer: string,
  within: Transaction,
): Promise<void> {
  const counted =
    (await almanac.db.row(
      `update discount_codes set used = used + 1
       where id = $codeId and withdrawn_on is null and (most_uses is null or used < most_uses) returning 1 as counted`,
      { codeId: use.codeId },
      within,
    )) &&
    (await almanac.db.row(
      `update discounts set used = used + 1
       where id = $discountId and archived_on is null and (most_uses is null or used < most_uses) returning 1 as counted`,
      { discountId: use.discountId },
      within,
    ));
  if (!counted) throw new RefusedCommand(422, 'This code has been used up.', pointer);
  const before = await almanac.db.row<{ used: number; most: number | null }>(
    `select count(u.id)::int as used, d.most_per_customer as most
     from discounts d left join discount_uses u on u.discount_id = d.id and u.customer_id = $customerId
     where d.id = $discountId group by d.id`,
    { discountId: use.discountId, customerId: use.customerId },
    within,
  );
  if (before && before.most !== null && before.used >= before.most)
    throw new RefusedCommand(422, 'This customer has used this discount as often as it allows.', pointer);
  await almanac.db.rows(
    `insert into discount_uses (discount_id, code_id, customer_id, subscription_id, used_on)
     values ($discountId, $codeId, $customerId, $subscriptionId, $on)`,
    { ...use },
    within,
  );
}
