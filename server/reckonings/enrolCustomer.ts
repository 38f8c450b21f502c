import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { findMethod, type FoundMethod } from '../customers/findMethod.ts';
import { shipsTo } from '../customers/places.ts';
import { RefusedCommand } from '../http/problem.ts';
import { acceptanceSchema, type enrolmentSchema } from '../subscriptions/messages.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { takeUpDraft } from './drafts.ts';
import { openReckoning } from './keptReckonings.ts';
import { cardGivenFor, givenMethod, type Acceptance } from './paying.ts';
import { reckon } from './reckon.ts';
import { refusedAt } from './refusedAt.ts';
import { takeUp, type Enrolled, type Speaker } from './takeUp.ts';

export type { Enrolled } from './takeUp.ts';

/**
 * Enrols a customer: what is chosen is reckoned and accepted in one; all of it is written down or nothing.
 * @param mayStill refuses what must not be any more, as a part of it
 */
export async function enrolCustomer(
  almanac: Almanac,
  wanted: z.output<typeof enrolmentSchema>,
  channel: Speaker,
  mayStill?: (within: Transaction) => Promise<void>,
): Promise<Enrolled> {
  const card = await cardOf(almanac, wanted.rateId, wanted);
  return almanac.db.transaction(async (within) => {
    await mayStill?.(within);
    const on = await businessDateOf(almanac, within);
    const known = 'id' in wanted.customer ? wanted.customer.id : null;
    const group = 'id' in wanted.customer ? '' : wanted.customer.group;
    const usual = 'id' in wanted.customer ? null : shipsTo(wanted.customer);
    const reckoning = await reckon(almanac, wanted, { customerId: known, group, on, usual }, within);
    const first = await takeUp(almanac, { reckoning, reckoningId: null, wanted, card, on, channel }, within);
    const also: string[] = [];
    for (const [i, choice] of wanted.also.entries())
      also.push(
        await refusedAt(`/also/${i}`, () =>
          takeUpAlso(almanac, { wanted, choice, first, on, channel }, within),
        ),
      );
    // After its customer, as whoever puts two customers together.
    if (wanted.draft !== undefined) await takeUpDraft(almanac, wanted.draft, within);
    return wanted.also.length === 0 ? first : { ...first, also };
  });
}

/** Begins what is chosen beside a first subscription: for the same customer, paid with the same, told of by itself. */
async function takeUpAlso(
  almanac: Almanac,
  of: {
    readonly wanted: z.output<typeof enrolmentSchema>;
    readonly choice: z.output<typeof enrolmentSchema>['also'][number];
    readonly first: Enrolled;
    readonly on: string;
    readonly channel: Speaker;
  },
  within: Transaction,
): Promise<string> {
  const { wanted, choice, first, on, channel } = of;
  const { id, customerId } = first;
  const { ownMethodId } = await Subscription.findByPk(id, { transaction: within, rejectOnEmpty: true });
  // What was given for the first is on file now; nobody is written to twice to ask for a method.
  const pays = {
    card: 'card',
    bank: 'card',
    mail: 'link',
    link: 'link',
    transfer: 'transfer',
    invoice: 'invoice',
  } as const;
  const acceptance = acceptanceSchema.parse({
    customer: { id: customerId },
    pays: pays[wanted.pays],
    ...(ownMethodId === null ? {} : { methodId: ownMethodId }),
    ...{ invoiceFields: wanted.invoiceFields, firstLetter: wanted.firstLetter },
  });
  const reckoning = await reckon(almanac, choice, { customerId, group: '', on }, within);
  const taken = { reckoning, reckoningId: null, wanted: acceptance, card: null, on, channel };
  return (await takeUp(almanac, taken, within)).id;
}

/** Accepts a reckoning that was made before, as it was made: no later price, tax or code changes it. */
export async function acceptReckoning(
  almanac: Almanac,
  id: string,
  wanted: Acceptance,
  channel: Speaker,
): Promise<Enrolled> {
  const rate = await almanac.db.row<{ id: string }>(
    'select rate_id::text as id from reckonings where id = $id',
    { id },
  );
  const card = rate && (await cardOf(almanac, rate.id, wanted));
  return almanac.db.transaction(async (within) => {
    const on = await businessDateOf(almanac, within);
    const kept = await openReckoning(almanac, id, on, within);
    const isForAnother = 'id' in wanted.customer && wanted.customer.id !== kept.customerId;
    if (kept.customerId !== null && (isForAnother || !('id' in wanted.customer)))
      throw new RefusedCommand(422, 'This reckoning was made for another customer.', '/customer');
    const shown = wanted.shown ?? [...kept.dues];
    const taken = {
      reckoning: kept.reckoning,
      reckoningId: id,
      wanted: { ...wanted, shown },
      card,
      on,
      channel,
    };
    return takeUp(almanac, taken, within);
  });
}

/** The card or the bank account of a token, checked with its gateway before anything is written; null where none is given. */
async function cardOf(almanac: Almanac, rateId: string, wanted: Acceptance): Promise<FoundMethod | null> {
  const given = givenMethod(wanted);
  return given && findMethod(almanac, given, given.at, cardGivenFor(rateId, wanted));
}
