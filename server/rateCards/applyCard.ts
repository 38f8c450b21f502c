import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { alterSubscription, effectOfAlteration } from '../subscriptions/alter.ts';
import type { AlterationEffect } from '../subscriptions/alterMessages.ts';
import type { CardEffect } from './messages.ts';
import { readRateCard } from './rateCards.ts';

/** So many subscriptions are held against a card at a time. */
const MOST_SHOWN = 300;

interface Running {
  readonly subscriptionId: string;
  readonly customer: string;
  readonly plan: string;
  readonly currency: string;
}

/**
 * The running subscriptions that may have a card and do not have it, each with its present and its other price: of a
 * card for a group those of the group, of other cards all that it has prices for.
 */
export async function candidatesOf(almanac: Almanac, cardId: string): Promise<CardEffect[]> {
  const card = await readRateCard(almanac, cardId);
  if (card.archivedOn !== null) return [];
  const running = await almanac.db.rows<Running>(
    `select s.id::text as "subscriptionId", c.name as customer, p.name as plan, s.terms ->> 'currency' as currency
     from subscriptions s join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id join rate_cards k on k.id = $cardId
     where s.state not in ('lapsed', 'ended') and s.rate_card_id is distinct from k.id
       and (k.given_by <> 'group' or c.group_id = k.group_id)
       and exists (select 1 from rate_card_prices x where x.card_id = k.id and x.rate_id = s.rate_id
                     and (x.variant_id is null or x.variant_id = s.variant_id))
     order by c.name, s.id limit ${MOST_SHOWN}`,
    { cardId },
  );
  const asked = { kind: 'rate card', cardId, from: 'renewal' } as const;
  const effects: CardEffect[] = [];
  for (const one of running)
    effects.push(
      await effectFor(one, () => effectOfAlteration(almanac, one.subscriptionId, asked, 'business')),
    );
  return effects;
}

/** Applies a card to subscriptions: it is applied, each in one transaction, and each customer is written to. */
export async function applyCard(
  almanac: Almanac,
  cardId: string,
  wanted: { readonly subscriptions: readonly string[]; readonly from: 'now' | 'renewal' },
): Promise<CardEffect[]> {
  await readRateCard(almanac, cardId);
  const running = await almanac.db.rows<Running>(
    `select s.id::text as "subscriptionId", c.name as customer, p.name as plan, s.terms ->> 'currency' as currency
     from subscriptions s join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id where s.id = any($ids::bigint[]) order by c.name, s.id`,
    { ids: wanted.subscriptions },
  );
  const asked = { kind: 'rate card', cardId, from: wanted.from } as const;
  const effects: CardEffect[] = [];
  for (const one of running)
    effects.push(
      await effectFor(one, () => alterSubscription(almanac, one.subscriptionId, asked, 'business')),
    );
  return effects;
}

async function effectFor(one: Running, work: () => Promise<AlterationEffect>): Promise<CardEffect> {
  const sum = (amounts: readonly (string | null)[]) =>
    amounts.reduce((total, amount) => total + BigInt(amount ?? 0), 0n).toString();
  try {
    const { lines, after } = await work();
    return {
      ...one,
      before: sum(lines.map((line) => line.before)),
      after: sum(lines.map((line) => line.after)),
      effectiveOn: after[0]?.from ?? null,
      refused: null,
    };
  } catch (error) {
    if (!(error instanceof RefusedCommand)) throw error;
    return { ...one, before: '0', after: '0', effectiveOn: null, refused: error.message };
  }
}
