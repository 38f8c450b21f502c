import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { noteLawChanged } from '../forecast/altered.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { settingsOf } from '../settings/settings.ts';
import type { TaxRate, TaxValue, TaxView } from './messages.ts';

const RATES = `(select coalesce(json_agg(json_build_object(
    'percent', trim(trailing '.' from trim(trailing '0' from percent::text)), 'mode', mode, 'country', country,
    'region', region, 'validFrom', valid_from, 'validTo', valid_to) order by country nulls first, region, valid_from), '[]')
  from tax_rates r where r.tax_id = t.id)`;

/** The taxes with their dated rates; those that are retired come last. */
export async function listTaxes(almanac: Almanac, within?: Transaction): Promise<TaxView[]> {
  const { defaultTax } = await settingsOf(almanac, 'taxing', within);
  const rows = await almanac.db.rows<Omit<TaxView, 'isDefault'>>(
    `select t.id::text, t.name, t.version, t.retired_on as "retiredOn", ${RATES} as rates,
       (select count(*)::int from subscriptions s where s.tax_id = t.id and s.state not in ('lapsed', 'ended')) as subscriptions
     from taxes t order by t.retired_on nulls first, lower(t.name)`,
    {},
    within,
  );
  return rows.map((row) => ({ ...row, isDefault: row.id === defaultTax }));
}

async function requireFreeName(
  almanac: Almanac,
  name: string,
  id: string,
  within: Transaction,
): Promise<void> {
  const taken = await almanac.db.row(
    'select 1 from taxes where lower(name) = lower($name) and retired_on is null and id::text <> $id',
    { name, id },
    within,
  );
  if (taken) throw new RefusedCommand(422, 'There is a tax of this name already.', '/value/name');
}

async function writeRates(
  almanac: Almanac,
  id: string,
  rates: readonly TaxRate[],
  within: Transaction,
): Promise<void> {
  await noteLawChanged(almanac, within);
  await almanac.db.rows('delete from tax_rates where tax_id = $id', { id }, within);
  for (const rate of rates) {
    await almanac.db.rows(
      `insert into tax_rates (tax_id, percent, mode, country, region, valid_from, valid_to)
       values ($id, $percent::numeric, $mode, $country, $region, $validFrom, $validTo)`,
      { id, ...rate },
      within,
    );
  }
}

/** Makes a tax. */
export function makeTax(almanac: Almanac, value: TaxValue): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) => {
    await requireFreeName(almanac, value.name, '', within);
    const made = await almanac.db.row<{ id: string }>(
      'insert into taxes (name) values ($name) returning id::text',
      { name: value.name },
      within,
    );
    const id = made?.id ?? '';
    await writeRates(almanac, id, value.rates, within);
    await recordDone(almanac, { did: 'made a tax', subject: value.name, after: value }, within);
    return { id };
  });
}

/**
 * Changes a tax. A rate that has been in force stays as it was for the days behind us: it can be ended, and another
 * begin. Issued invoices are never touched.
 */
export async function changeTax(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: TaxValue },
  today: string,
): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const locked = await almanac.db.row<{ who: string }>(
      'select changed_by as who from taxes where id = $id for update',
      { id },
      within,
    );
    const before = (await listTaxes(almanac, within)).find((tax) => tax.id === id);
    if (!before || before.retiredOn !== null) throw new RefusedCommand(404, 'There is no such tax.');
    const value = { name: before.name, rates: before.rates };
    if (before.version !== edit.version)
      throw new ConflictingEdit({ value, version: before.version, changedBy: locked?.who ?? '' });
    await requireFreeName(almanac, edit.value.name, id, within);
    requireSamePast(before.rates, edit.value.rates, today);
    await almanac.db.rows(
      'update taxes set name = $name, version = version + 1, changed_by = $who where id = $id',
      { id, who: askerNow().who, name: edit.value.name },
      within,
    );
    await writeRates(almanac, id, edit.value.rates, within);
    await recordDone(
      almanac,
      { did: 'changed a tax', subject: edit.value.name, before: value, after: edit.value },
      within,
    );
  });
}

/** Retires a tax: nobody new pays it. One that is paid by running subscriptions, or is the default, stays. */
export async function retireTax(almanac: Almanac, id: string, today: string): Promise<void> {
  await almanac.db.transaction(async (within) => {
    await almanac.db.rows('select 1 from taxes where id = $id for update', { id }, within);
    const tax = (await listTaxes(almanac, within)).find((one) => one.id === id && one.retiredOn === null);
    if (!tax) throw new RefusedCommand(404, 'There is no such tax.');
    if (tax.isDefault) throw new RefusedCommand(409, 'This is the default. Choose another default first.');
    if (tax.subscriptions > 0)
      throw new RefusedCommand(
        409,
        `${tax.subscriptions} running subscriptions pay this tax. It stays until they end.`,
      );
    await almanac.db.rows('update taxes set retired_on = $today where id = $id', { id, today }, within);
    await recordDone(almanac, { did: 'retired a tax', subject: tax.name }, within);
  });
}

/** Refuses an edit that would alter what was in force before today. */
function requireSamePast(before: readonly TaxRate[], after: readonly TaxRate[], today: string): void {
  const began = (rate: TaxRate) => rate.validFrom < today;
  const facts = (rate: TaxRate) =>
    JSON.stringify([rate.percent, rate.mode, rate.country, rate.region, rate.validFrom]);
  const pastEnd = (rate: TaxRate) => (rate.validTo !== null && rate.validTo < today ? rate.validTo : null);
  for (const old of before.filter(began)) {
    const kept = after.find((rate) => facts(rate) === facts(old));
    if (kept && pastEnd(kept) === pastEnd(old)) continue;
    throw new RefusedCommand(
      422,
      `The rate of ${old.percent}% since ${old.validFrom} has been in force and stays as it was until today. End it on ${today} or later, and add the new rate from then.`,
      '/value/rates',
    );
  }
  after.forEach((rate, i) => {
    const isNew = !before.some((old) => facts(old) === facts(rate));
    if (isNew && began(rate)) {
      throw new RefusedCommand(422, `A new rate begins on ${today} or later.`, `/value/rates/${i}/validFrom`);
    }
  });
}
