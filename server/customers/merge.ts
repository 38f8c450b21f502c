import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import { sayCard } from '../notices/occasions.ts';
import { settleNeeds } from '../run/needs.ts';
import { onceInVain } from './askForMethod.sql.ts';
import { Customer } from './Customer.ts';
import { endLinks } from './endLinks.ts';
import { countMerged, movedMethods, moveRecords } from './merge.sql.ts';
import type { MergeEffect } from './mergeMessages.ts';
import { IN_USE, PaymentMethod } from './PaymentMethod.ts';

/** What putting one record into another would do. Changes nothing. */
export function effectOfMerging(almanac: Almanac, id: string, from: string): Promise<MergeEffect> {
  return almanac.db.transaction(async (within) => {
    const [keeps, goes] = await both(id, from, within, false);
    return effectOf(almanac, keeps, goes, within);
  });
}

/**
 * Puts two records of one customer together: everything of one becomes the other's, and the emptied record is gone. What runs
 * is charged to the very methods that it was charged to before. Links in letters to the record that goes have ended.
 */
export function mergeCustomers(almanac: Almanac, id: string, from: string): Promise<MergeEffect> {
  return almanac.db.transaction(async (within) => {
    const [keeps, goes] = await both(id, from, within, true);
    const on = await businessDateOf(almanac, within);
    const effect = await effectOf(almanac, keeps, goes, within);
    await endLinks(almanac, from, 'two records of yours were put together', within);
    await settleNeeds(almanac, within, onceInVain(from), on);
    await movedMethods(almanac, { id, from }, within);
    noteAltered(within, ...(await moveRecords(almanac, { id, from }, within)));
    await goes.destroy({ transaction: within });
    await recordDone(
      almanac,
      {
        did: 'put two customers together',
        subject: keeps.name,
        before: { ...effect.goes, lost: effect.lost },
        after: { subscriptions: effect.subscriptions, invoices: effect.invoices },
      },
      within,
    );
    return effect;
  });
}

/** Both records, locked in the order of their numbers where they are to be changed. */
async function both(
  id: string,
  from: string,
  within: Transaction,
  locks: boolean,
): Promise<[Customer, Customer]> {
  if (BigInt(id) === BigInt(from)) throw new RefusedCommand(422, 'This is the same record.', '/from');
  const found = new Map<string, Customer>();
  for (const one of [id, from].toSorted((a, b) => (BigInt(a) < BigInt(b) ? -1 : 1))) {
    // Whoever waits here for another merge finds that one of the two is gone.
    const lock = locks ? { lock: within.LOCK.UPDATE } : {};
    const customer = await Customer.findByPk(one, { transaction: within, ...lock });
    if (!customer) {
      if (one === id) throw new RefusedCommand(404, 'There is no such customer.');
      throw new RefusedCommand(422, 'There is no such customer any more.', '/from');
    }
    if (customer.erasedOn !== null && customer.erasedOn !== undefined)
      throw new RefusedCommand(409, 'What was known of one of them has been erased.');
    found.set(one, customer);
  }
  const [keeps, goes] = [found.get(id), found.get(from)];
  if (!keeps || !goes) throw new RefusedCommand(404, 'There is no such customer.');
  return [keeps, goes];
}

const FIELDS = {
  name: 'name',
  email: 'e-mail',
  phone: 'telephone',
  organisation: 'organisation',
  address: 'address',
  postcode: 'postcode',
  language: 'language',
  country: 'country',
  region: 'region',
  taxNumber: 'tax number',
  taxExempt: 'reason for no tax',
} as const;

async function effectOf(
  almanac: Almanac,
  keeps: Customer,
  goes: Customer,
  within: Transaction,
): Promise<MergeEffect> {
  const counts = await countMerged(almanac, goes.id, within);
  const methods = await PaymentMethod.findAll({
    where: { customerId: goes.id, state: IN_USE },
    order: ['id'],
    transaction: within,
  });
  const lost = (Object.keys(FIELDS) as (keyof typeof FIELDS)[]).flatMap((field) => {
    const value = goes[field] ?? '';
    return value === '' || value === keeps[field] ? [] : [{ field: FIELDS[field], value }];
  });
  const taxed = ({ country, region, taxExempt }: Customer) => JSON.stringify([country, region, taxExempt]);
  return {
    keeps: { name: keeps.name, email: keeps.email },
    goes: { name: goes.name, email: goes.email, reference: goes.reference },
    ...counts,
    methods: methods.map(sayCard),
    lost,
    taxesDiffer: counts.subscriptions.length > 0 && taxed(keeps) !== taxed(goes),
  };
}
