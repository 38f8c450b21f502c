import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { hasExpired } from '../../core/dates/cardExpiry.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { sayCard } from '../notices/occasions.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { acceptanceSchema } from '../subscriptions/messages.ts';
import { enrolCustomer } from './enrolCustomer.ts';
import type { ManyRow, manySchema } from './manyMessages.ts';
import { payingOf, requireKeptCard } from './paying.ts';
import { duesOf, reckon } from './reckon.ts';

type Many = z.output<typeof manySchema>;

/** What enrolling several customers in the same would do, one by one: nothing is written. */
export function effectOfMany(almanac: Almanac, wanted: Many): Promise<ManyRow[]> {
  return almanac.db.transaction(async (within) => {
    const on = await businessDateOf(almanac, within);
    const rows: ManyRow[] = [];
    for (const id of wanted.customerIds) rows.push(await rowOf(almanac, id, wanted, on, within));
    return rows;
  });
}

/**
 * Enrols several customers in the same, each by themselves: whoever cannot be is left out with the reason, and stops nobody.
 * Whoever has the rate already is left out, so that asking again after it broke off enrols nobody twice.
 */
export async function enrolMany(almanac: Almanac, wanted: Many): Promise<ManyRow[]> {
  const rows: ManyRow[] = [];
  for (const row of await effectOfMany(almanac, wanted)) {
    if (row.left !== null) {
      rows.push(row);
      continue;
    }
    const { customerIds: _, ...choice } = wanted;
    const customer = { id: row.customerId };
    const pays = wanted.pays === 'card' && row.pays === ASKED ? 'mail' : wanted.pays;
    const acceptance = acceptanceSchema.parse({ customer, pays });
    try {
      // Whoever enrols the same at the same time waits here, and finds that they have it.
      const mayStill = async (within: Transaction) => {
        await lockedCustomer(row.customerId, within);
        const says = await sayHad(almanac, row.customerId, wanted.rateId, within);
        if (says !== null) throw new RefusedCommand(409, says);
      };
      const { id } = await enrolCustomer(almanac, { ...choice, ...acceptance, also: [] }, 'staff', mayStill);
      rows.push({ ...row, id });
    } catch (error) {
      rows.push({ ...row, left: sayRefused(error) });
    }
  }
  return rows;
}

const ASKED = 'asked for by mail';

async function rowOf(
  almanac: Almanac,
  customerId: string,
  wanted: Many,
  on: string,
  within: Transaction,
): Promise<ManyRow> {
  const customer = await Customer.findByPk(customerId, { transaction: within });
  const nothing = { customerId, name: customer?.name ?? '', pays: '', first: null, id: null };
  if (!customer) return { ...nothing, left: 'There is no such customer.' };
  if (customer.erasedOn) return { ...nothing, left: 'What was known of them has been erased.' };
  const had = await sayHad(almanac, customerId, wanted.rateId, within);
  if (had !== null) return { ...nothing, left: had };
  try {
    const reckoning = await reckon(almanac, wanted, { customerId, group: '', on }, within);
    const paying = await paysOf(customer, { wanted, on, rate: reckoning.rate }, within);
    const { country, region, taxExempt } = customer;
    const dues = await duesOf(
      almanac,
      reckoning,
      { country, region, taxExempt, paidAs: paying.paidAs },
      within,
    );
    const first = dues.find(({ due }) => BigInt(due) > 0n);
    return {
      ...nothing,
      pays: paying.says,
      first: first ? { dueOn: first.dueOn, due: first.due, currency: reckoning.terms.currency } : null,
      left: null,
    };
  } catch (error) {
    return { ...nothing, left: sayRefused(error) };
  }
}

/** That somebody has a rate already, in words; null: they have not. */
async function sayHad(
  { db }: Almanac,
  customerId: string,
  rateId: string,
  within: Transaction,
): Promise<string | null> {
  const had = await db.row<{ since: string }>(
    `select starts_on::text as since from subscriptions
     where customer_id = $customerId and rate_id = $rateId and state not in ('lapsed', 'ended') order by id limit 1`,
    { customerId, rateId },
    within,
  );
  return had && `They have this rate already, since ${sayDate(had.since)}.`;
}

/** How one of them would pay: with what is on file, or they are asked. */
async function paysOf(
  customer: Customer,
  {
    wanted,
    on,
    rate,
  }: { readonly wanted: Many; readonly on: string; readonly rate: Parameters<typeof payingOf>[0] },
  within: Transaction,
): Promise<{ readonly says: string; readonly paidAs: 'card' | 'bank debit' | 'by invoice' }> {
  const acceptance = acceptanceSchema.parse({ customer: { id: customer.id }, pays: wanted.pays });
  payingOf(rate, acceptance);
  if (wanted.pays === 'invoice') return { says: 'by invoice', paidAs: 'by invoice' };
  const kept = await methodInUse({ customerId: customer.id, ownMethodId: null }, within);
  if (kept?.state !== 'usable' || hasExpired(kept, on)) return { says: ASKED, paidAs: 'card' };
  await requireKeptCard(customer, { rate, on, methodId: undefined }, within);
  return { says: sayCard(kept), paidAs: kept.kind === 'bank account' ? 'bank debit' : 'card' };
}

/** Why somebody cannot be enrolled, in words; what is no refusal is a fault of ours and goes on. */
function sayRefused(error: unknown): string {
  if (error instanceof RefusedCommand) return error.message;
  if (error instanceof RefusedTerms) return error.faults.map(({ detail }) => detail).join(' ');
  throw error;
}
