import { sayDayMonthYear } from '../../core/words/date.ts';
import { inTurn, isOfSubscription } from './inTurn.ts';

/** Why a subscription that charges by itself cannot be charged as things stand. */
export type Hindrance = 'no card' | 'asked for' | 'barred' | 'needs its holder' | 'expired' | 'disconnected';

/** What is known of how a subscription is paid; columns of {@link METHOD}. */
export interface MethodFacts {
  readonly collects: 'automatic' | 'by hand';
  /** 'Larkfield ending 4242', or null where there is none. */
  readonly card: string | null;
  /** The last day of the card, or null. */
  readonly card_until: string | null;
  readonly hindrance: Hindrance | null;
}

/** Whether a method `m`, kept at an account `g`, can be charged on a day: nothing is known that hinders it. */
const isGood = (m: string, g: string, on: string) =>
  `${m}.state = 'usable' and ${m}.expires_on >= ${on} and ${g}.disconnected_on is null`;

/**
 * How the subscription `s` is paid, and what hinders its next payment, joined as `how`.
 * @param on the day of that payment, in SQL
 */
export const methodJoin = (on: string) => `
  left join lateral (
    select m.network || ' ending ' || m.last_four as card, m.expires_on as card_until, m.state, g.disconnected_on
    from payment_methods m join gateway_accounts g on g.id = m.gateway_account_id
    where ${isOfSubscription('m', 's')}
    order by (${isGood('m', 'g', on)}) desc, m.state = 'usable' desc, ${inTurn('m', 's')} limit 1) m on true
  cross join lateral (
    select m.card, m.card_until, case
      when s.collects = 'by hand' or s.state in ('lapsed', 'ended') then null
      when m.state is null and (s.without_method = 'wait' or exists (
        select from customers c where c.id = s.customer_id and c.method_asked_on is not null)) then 'asked for'
      when m.state is null then 'no card'
      when m.state = 'barred' then 'barred'
      when m.state = 'needs-customer' then 'needs its holder'
      when m.card_until < ${on} then 'expired'
      when m.disconnected_on is not null then 'disconnected' end as hindrance) how`;

/** The columns that {@link methodJoin} gives. */
export const METHOD = 's.collects, how.card, how.card_until, how.hindrance';

/**
 * Subscriptions `s` that something hinders from being charged, found by what is rare: cards that fail or run out, accounts that
 * are away, and who never gave a card. `$today` is the business date.
 */
export const CANNOT_CHARGE = `s.collects = 'automatic' and s.state not in ('lapsed', 'ended') and s.id in (
  select x.id from subscriptions x join payment_methods m on m.customer_id = x.customer_id
  where m.state in ('barred', 'needs-customer')
  union all
  select x.id from payment_methods m join subscriptions x on x.customer_id = m.customer_id
  where m.state = 'usable' and m.expires_on < coalesce(x.next_on, $today::date)
    and m.expires_on < greatest($today::date, (select max(next_on) from subscriptions))
  union all
  select x.id from gateway_accounts g join payment_methods m on m.gateway_account_id = g.id
    join subscriptions x on x.customer_id = m.customer_id
  where g.disconnected_on is not null and m.state <> 'replaced'
  union all
  select x.id from customers c join subscriptions x on x.customer_id = c.id where not c.has_method)
  and not exists (
    select from payment_methods x join gateway_accounts g on g.id = x.gateway_account_id
    where ${isOfSubscription('x', 's')} and ${isGood('x', 'g', 'coalesce(s.next_on, $today::date)')})`;

/** How a subscription is paid: 'Larkfield ending 4242', 'by hand', 'no card'. */
export function sayMethod({ collects, card }: MethodFacts): string {
  return collects === 'by hand' ? 'by hand' : (card ?? 'no card');
}

/** What hinders the next payment of a subscription, in words short enough for a list; null where nothing does. */
export function sayHindrance({ hindrance, card_until }: MethodFacts): string | null {
  if (hindrance === null) return null;
  return {
    'no card': 'nothing to charge',
    'asked for': 'asked for a card',
    barred: 'card: never charge it',
    'needs its holder': 'card: ask its holder',
    expired: `card ends ${card_until ? sayDayMonthYear(card_until) : 'before'}`,
    disconnected: 'account disconnected',
  }[hindrance];
}
