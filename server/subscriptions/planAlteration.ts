import type { Transaction } from 'sequelize';
import { boundariesAhead, effectiveDay, type Alteration, type From } from '../../core/alter/alterTerms.ts';
import { linesLeftOn, linesListedOn } from '../../core/alter/linesOn.ts';
import type { RunningTerms } from '../../core/alter/runningTerms.ts';
import { formatDay } from '../../core/dates/day.ts';
import type { RateTerms } from '../../core/offer/composeTerms.ts';
import { minorDigits } from '../../core/money/currency.ts';
import { decimalsOf, parseDecimal } from '../../core/money/decimal.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { chooseExtras, onceOf, type ChosenExtra, type ExtraLine } from '../../core/offer/extras.ts';
import { linesForRunning } from '../../core/offer/linesForRunning.ts';
import { offersRate } from '../../core/offer/variant.ts';
import type { LinePrices } from '../../core/offer/prices.ts';
import type { TermsLine } from '../../core/terms/schema.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { discountOfCode } from '../discounts/discounts.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Plan } from '../plans/Plan.ts';
import { PRICE_COLUMNS } from '../plans/otherPrices.ts';
import type { Rate } from '../plans/Rate.ts';
import { variantsOf } from '../plans/variants.ts';
import { cardOfCode, requireCard } from '../rateCards/takeCard.ts';
import type { TakeableCard } from '../rateCards/messages.ts';
import type { AlterationMessage } from './alterMessages.ts';
import type { Subscription } from './Subscription.ts';
import { quantityOf } from './subscriptions.ts';

/** A subscription with what an alteration of it looks at. */
export interface Alterable {
  readonly subscription: Subscription;
  readonly plan: Plan;
  readonly rate: Rate;
  readonly running: RunningTerms;
  readonly today: string;
}

/** An alteration made ready: what becomes of the terms, and what else is written down with it. */
export interface Planned {
  readonly alteration: Alteration;
  /** The lines to be held against those in force; null where they are not what changes. */
  readonly lines: readonly TermsLine[] | null;
  readonly facts: Partial<Pick<Subscription, 'variantId' | 'rateCardId' | 'extras'>>;
  readonly codes: readonly {
    readonly discountId: string;
    readonly codeId: string;
    readonly customerId: string;
    readonly subscriptionId: string;
  }[];
  /** What is done, in words; null: when it ends, which is known once it is computed. */
  readonly says: string | null;
}

/** Makes ready what was asked, or refuses it. */
export async function planAlteration(
  almanac: Almanac,
  of: Alterable,
  asked: AlterationMessage,
  within: Transaction,
): Promise<Planned> {
  const { subscription, plan, running } = of;
  const plain = { lines: null, facts: {}, codes: [] };
  const next = boundariesAhead(running, 1)[0];
  const nextDay = next === undefined ? 'the next renewal' : sayDate(formatDay(next));
  const fromWhen = (from: 'now' | 'renewal') => (from === 'now' ? 'from today' : `from ${nextDay}`);
  switch (asked.kind) {
    case 'cancel':
      return {
        ...plain,
        alteration: {
          kind: 'end',
          afterPayments: asked.when === 'after payments' ? (asked.payments ?? 1) : undefined,
        },
        says: null,
      };
    case 'go on':
      if ((subscription.cancelledBy ?? null) === null) throw new RefusedCommand(422, 'It is not cancelled.');
      return { ...plain, alteration: asked, says: 'the subscription goes on' };
    case 'pause': {
      const ahead = boundariesAhead(running, asked.periods + 1);
      const to = ahead[asked.periods];
      const says = `it rests from ${nextDay} to ${to === undefined ? 'its end' : sayDate(formatDay(to))}`;
      return { ...plain, alteration: asked, says };
    }
    case 'pause until':
      return {
        ...plain,
        alteration: asked,
        says: `it rests from ${nextDay} to ${sayDate(asked.to)}`,
      };
    case 'date':
      return {
        ...plain,
        alteration: { ...asked, from: 'now' },
        says: `the next payment is on ${sayDate(asked.to)} instead of ${nextDay}`,
      };
    case 'quantity': {
      const { quantity, from } = asked;
      if (quantityOf(running, of.today) === null)
        throw new RefusedCommand(422, 'The price does not look at how many.', '/quantity');
      const lines = linesThen(of, from).map((line, i) => (i === 0 ? { ...line, quantity } : line));
      return {
        ...plain,
        lines,
        alteration: { kind: 'quantity', line: 0, quantity, from },
        says: `the quantity is ${quantity} ${fromWhen(from)}`,
      };
    }
    case 'extra': {
      const extras = extrasAfter(plan, subscription, asked);
      const lines = await linesAfter(almanac, of, asked.from, { extras }, within);
      const name = [...plan.extras, ...subscription.extras.map(({ extra }) => extra)].find(
        ({ key }) => key === asked.key,
      )?.name;
      const says =
        asked.quantity === 0
          ? `${name} is taken out ${fromWhen(asked.from)}`
          : `${asked.quantity} × ${name} ${fromWhen(asked.from)}`;
      return {
        ...plain,
        lines,
        alteration: { kind: 'lines', lines, from: asked.from },
        facts: { extras },
        says,
      };
    }
    case 'once': {
      const { extra, extras } = onceAfter(plan, subscription, asked);
      const [amount] = onceOf({ extra, quantity: asked.quantity }, extra.currency, '');
      if (!amount) throw new Error(`${extra.name} is not paid once.`);
      const when = asked.from === 'now' ? 'at once' : `with the payment of ${nextDay}`;
      return {
        ...plain,
        alteration: { kind: 'once', name: amount.name, amount: amount.amount, from: asked.from },
        facts: { extras },
        says: `${amount.name} is added and charged ${when}`,
      };
    }
    case 'amount': {
      const { name, amount, from } = asked;
      const { currency } = subscription.terms;
      if ((decimalsOf(amount) ?? Infinity) > minorDigits(currency) || /^0+(\.0+)?$/.test(amount))
        throw new RefusedCommand(
          422,
          `Give an amount above nothing, with the decimals of ${currency}.`,
          '/amount',
        );
      if (subscription.invoicing === 'whole')
        throw new RefusedCommand(
          422,
          'There is one invoice for the whole of it: nothing more comes.',
          '/amount',
        );
      const when = from === 'now' ? 'charged at once' : `charged with the payment of ${nextDay}`;
      const sum = sayAmount(parseDecimal(amount, minorDigits(currency)), currency);
      return {
        ...plain,
        alteration: { kind: 'once', name, amount, from },
        says: `${name} is added, ${sum}, ${when}`,
      };
    }
    case 'variant': {
      const variant = (await variantsOf(almanac, [plan.id], within)).find(({ id }) => id === asked.variantId);
      if (!variant || variant.archivedOn !== null || !offersRate(variant, subscription.rateId))
        throw new RefusedCommand(
          422,
          'Choose one of the variants that this rate is offered in.',
          '/variantId',
        );
      if (variant.id === subscription.variantId)
        throw new RefusedCommand(422, `It is ${variant.name} already.`, '/variantId');
      const lines = await linesAfter(almanac, of, asked.from, { variantId: variant.id }, within);
      return {
        ...plain,
        lines,
        alteration: { kind: 'lines', lines, from: asked.from },
        facts: { variantId: variant.id },
        says: `it is ${variant.name} ${fromWhen(asked.from)}`,
      };
    }
    case 'rate card': {
      const card =
        asked.cardId === null ? null : await requireCard(almanac, asked.cardId, useOf(of), '/cardId', within);
      return planCard(almanac, of, card, asked.from, fromWhen(asked.from), within);
    }
    case 'code': {
      const card = await cardOfCode(almanac, asked.code, useOf(of), '/code', within);
      if (card) return planCard(almanac, of, card, 'renewal', fromWhen('renewal'), within);
      const { rate, today } = of;
      const use = { planId: plan.id, currency: rate.terms.currency, on: today };
      const { discount, discountId, codeId, stacks } = await discountOfCode(
        almanac,
        asked.code,
        use,
        '/code',
        within,
      );
      await requireStacking(almanac, { subscriptionId: subscription.id, discountId }, stacks, within);
      return {
        ...plain,
        alteration: { kind: 'discount', discount },
        codes: [{ discountId, codeId, customerId: subscription.customerId, subscriptionId: subscription.id }],
        says: `the code ${asked.code.toUpperCase()} counts from ${nextDay}`,
      };
    }
  }
}

const useOf = ({ subscription, today }: Alterable) => ({
  rateId: subscription.rateId,
  variantId: subscription.variantId ?? null,
  customerId: subscription.customerId,
  on: today,
});

async function planCard(
  almanac: Almanac,
  of: Alterable,
  card: TakeableCard | null,
  from: 'now' | 'renewal',
  fromWhen: string,
  within: Transaction,
): Promise<Planned> {
  if ((card?.id ?? null) === (of.subscription.rateCardId ?? null))
    throw new RefusedCommand(
      422,
      card ? `It has the rate card ${card.name} already.` : 'It has no rate card.',
      '/cardId',
    );
  const lines = await linesAfter(almanac, of, from, { cardPrices: card?.prices ?? null }, within);
  return {
    lines,
    alteration: { kind: 'lines', lines, from },
    facts: { rateCardId: card?.id ?? null },
    codes: [],
    says: card ? `it has the prices of ${card.name} ${fromWhen}` : `it has the ordinary prices ${fromWhen}`,
  };
}

/** The lines that would be in force on the day from which an alteration holds. */
export function linesThen(
  { running, today }: Pick<Alterable, 'running' | 'today'>,
  from: From,
): readonly TermsLine[] {
  const { terms } = running;
  return 'lines' in terms ? linesListedOn(terms, effectiveDay(running, from, today)) : [];
}

/** The same, with what will be left of their first prices and discounts. */
function linesLeftThen({ running, today }: Alterable, from: From): readonly TermsLine[] {
  const { terms } = running;
  return 'lines' in terms ? linesLeftOn(running, terms, effectiveDay(running, from, today)) : [];
}

/** The lines of the version of its rate that the subscription will be on then, with something of it chosen otherwise. */
async function linesAfter(
  almanac: Almanac,
  of: Alterable,
  from: From,
  otherwise: {
    readonly variantId?: string;
    readonly cardPrices?: LinePrices | null;
    readonly extras?: readonly ChosenExtra[];
  },
  within: Transaction,
): Promise<TermsLine[]> {
  const { subscription } = of;
  const row = await almanac.db.row<{
    terms: RateTerms;
    variant_prices: LinePrices | null;
    card_prices: LinePrices | null;
  }>(
    `select v.terms, ${PRICE_COLUMNS}
     from (select s.id, s.rate_id, s.rate_card_id,
             coalesce((select max(m.to_version) from subscription_moves sm join rate_moves m on m.id = sm.move_id
                       where sm.subscription_id = s.id and sm.effective_on <= $on), s.rate_version) as rate_version,
             coalesce(nullif($variantId, '')::bigint, s.variant_id) as variant_id
           from subscriptions s where s.id = $id) s
     join rate_versions v on v.rate_id = s.rate_id and v.version = s.rate_version`,
    {
      id: subscription.id,
      variantId: otherwise.variantId ?? '',
      on: effectiveDay(of.running, from, of.today),
    },
    within,
  );
  if (!row) throw new Error(`Subscription ${subscription.id} has no version of its rate.`);
  return linesForRunning(row.terms, {
    current: linesThen(of, from),
    left: linesLeftThen(of, from),
    prices: [row.variant_prices, otherwise.cardPrices === undefined ? row.card_prices : otherwise.cardPrices],
    extras: otherwise.extras ?? subscription.extras,
    had: subscription.extras,
  });
}

function extrasAfter(
  plan: Plan,
  subscription: Subscription,
  asked: { readonly key: string; readonly quantity: number },
): ChosenExtra[] {
  const known = subscription.extras.find(({ extra }) => extra.key === asked.key)?.extra;
  const extra = known ?? plan.extras.find(({ key }) => key === asked.key);
  if (!extra || extra.currency !== subscription.terms.currency)
    throw new RefusedCommand(422, 'This plan has no such extra line.', '/key');
  if (extra.when === 'once')
    throw new RefusedCommand(422, 'This is paid once, and is no line of what recurs.', '/key');
  const chosen = chooseExtras([extra], { [extra.key]: asked.quantity });
  if ('says' in chosen) throw new RefusedCommand(422, chosen.says, '/quantity');
  if (!known && (subscription.lineSources ?? []).some(({ line }) => line === extra.name))
    throw new RefusedCommand(
      422,
      `Another plan's line on this subscription is called ${extra.name} too: rename the extra line first.`,
      '/key',
    );
  if (!known) return [...subscription.extras, ...chosen.taken];
  return subscription.extras.flatMap((one) => (one.extra.key === asked.key ? chosen.taken : [one]));
}

/** An extra line that is paid once, taken beside what was taken of it before. */
function onceAfter(
  plan: Plan,
  subscription: Subscription,
  { key, quantity }: { readonly key: string; readonly quantity: number },
): { extra: ExtraLine; extras: ChosenExtra[] } {
  const extra = plan.extras.find((one) => one.key === key && one.when === 'once');
  if (!extra || extra.currency !== subscription.terms.currency)
    throw new RefusedCommand(422, 'This plan has no such extra line.', '/key');
  if (subscription.invoicing === 'whole')
    throw new RefusedCommand(422, 'There is one invoice for the whole of it: nothing more comes.', '/key');
  const before = subscription.extras.find((one) => one.extra.key === key)?.quantity ?? 0;
  const most = extra.max - before;
  if (quantity < extra.min || quantity > most) {
    const had = before === 0 ? '' : `, as ${before} were taken already`;
    const says = most < extra.min ? `No more can be taken${had}.` : `Take ${extra.min} to ${most}${had}.`;
    throw new RefusedCommand(422, says, '/quantity');
  }
  const others = subscription.extras.filter((one) => one.extra.key !== key);
  return { extra, extras: [...others, { extra, quantity: before + quantity }] };
}

async function requireStacking(
  almanac: Almanac,
  use: { readonly subscriptionId: string; readonly discountId: string },
  stacks: boolean,
  within: Transaction,
): Promise<void> {
  const others = await almanac.db.row<{ n: number; alone: number; same: boolean }>(
    `select count(*)::int as n, count(*) filter (where not d.stacks)::int as alone,
       coalesce(bool_or(d.id = $discountId), false) as same
     from discount_uses u join discounts d on d.id = u.discount_id where u.subscription_id = $subscriptionId`,
    use,
    within,
  );
  if (others?.same)
    throw new RefusedCommand(422, 'This discount was used for this subscription already.', '/code');
  if (others && others.n > 0 && (!stacks || others.alone > 0))
    throw new RefusedCommand(
      422,
      'There is a code on this subscription, and the two cannot be used together.',
      '/code',
    );
}

/** 'it ends on 3 May', or that it ends. */
export function sayEnd(endsOn: string | null): string {
  return endsOn === null ? 'it goes on' : `it ends on ${sayDate(endsOn)}`;
}
