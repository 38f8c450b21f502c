import type { Transaction } from 'sequelize';
import type { LinePrices } from '../../core/offer/prices.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { GivenBy, TakeableCard } from './messages.ts';

/** What a rate card is asked for. */
export interface CardUse {
  readonly rateId: string;
  readonly variantId: string | null;
  readonly customerId: string | null;
  /** The group of somebody who is no customer yet; empty: none. */
  readonly group?: string;
  readonly on: string;
}

interface Row {
  readonly id: string;
  readonly name: string;
  readonly givenBy: GivenBy;
  readonly code: string | null;
  readonly validFrom: string | null;
  readonly validTo: string | null;
  readonly archived: boolean;
  readonly inGroup: boolean;
  readonly prices: LinePrices | null;
}

const CARDS = `select c.id::text, c.name, c.given_by as "givenBy", c.code, c.valid_from as "validFrom", c.valid_to as "validTo",
    c.archived_on is not null as archived,
    exists (select 1 from customers p where p.id::text = $customerId and p.group_id = c.group_id)
      or exists (select 1 from customer_groups g where g.id = c.group_id and lower(g.name) = lower($group)) as "inGroup",
    (select x.prices from rate_card_prices x where x.card_id = c.id and x.rate_id = $rateId
       and (x.variant_id is null or x.variant_id::text = $variantId)
     order by x.variant_id nulls last limit 1) as prices
  from rate_cards c`;
const bound = ({ rateId, variantId, customerId, group = '' }: CardUse) => ({
  rateId,
  variantId: variantId ?? '',
  customerId: customerId ?? '',
  group,
});

/**
 * The cards that staff may apply with a rate, for a customer on a day: those of the customer's group, which come
 * first, and those that are given by hand.
 */
export async function cardsFor(
  almanac: Almanac,
  use: CardUse,
  within?: Transaction,
): Promise<TakeableCard[]> {
  const rows = await almanac.db.rows<Row>(
    `${CARDS} where c.archived_on is null order by c.given_by, c.name`,
    bound(use),
    within,
  );
  return rows.flatMap((row) => {
    const may = (row.givenBy === 'group' && row.inGroup) || row.givenBy === 'hand';
    return may && whyNotNow(row, use.on) === null && row.prices ? [viewOf(row, row.prices)] : [];
  });
}

/** A card that was chosen, or a refusal in words. */
export async function requireCard(
  almanac: Almanac,
  cardId: string,
  use: CardUse,
  pointer: string,
  within?: Transaction,
): Promise<TakeableCard> {
  const row = await almanac.db.row<Row>(`${CARDS} where c.id = $cardId`, { ...bound(use), cardId }, within);
  if (!row) throw new RefusedCommand(422, 'There is no such rate card.', pointer);
  if (row.givenBy === 'group' && !row.inGroup)
    throw new RefusedCommand(422, 'This rate card is for a group that the customer is not in.', pointer);
  return required(row, use, pointer);
}

/** The card that a code stands for; null where the code is none of a card. */
export async function cardOfCode(
  almanac: Almanac,
  code: string,
  use: CardUse,
  pointer: string,
  within?: Transaction,
): Promise<TakeableCard | null> {
  const row = await almanac.db.row<Row>(
    `${CARDS} where c.code = $code order by c.archived_on nulls first limit 1`,
    { ...bound(use), code: code.trim().toUpperCase() },
    within,
  );
  return row && required(row, use, pointer);
}

function required(row: Row, use: CardUse, pointer: string): TakeableCard {
  const why =
    whyNotNow(row, use.on) ?? (row.prices ? null : `The rate card ${row.name} has no price for this rate.`);
  if (why !== null || !row.prices) throw new RefusedCommand(422, why ?? '', pointer);
  return viewOf(row, row.prices);
}

function whyNotNow({ name, archived, validFrom, validTo }: Row, on: string): string | null {
  if (archived || (validTo !== null && on >= validTo))
    return `The rate card ${name} cannot be taken any more.`;
  if (validFrom !== null && on < validFrom)
    return `The rate card ${name} can be taken from ${sayDate(validFrom)}.`;
  return null;
}

const viewOf = ({ id, name, givenBy }: Row, prices: LinePrices): TakeableCard => ({
  id,
  name,
  givenBy,
  prices,
});
