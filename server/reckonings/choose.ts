import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { composeTerms } from '../../core/offer/composeTerms.ts';
import { chooseExtras, extrasOf, type ChosenExtra } from '../../core/offer/extras.ts';
import { faultsOfOwn, ownExtras } from '../../core/offer/ownTerms.ts';
import { linesOfPlans, whyApart } from '../../core/offer/planLines.ts';
import type { LinePrices } from '../../core/offer/prices.ts';
import { variantsAt } from '../../core/offer/variant.ts';
import { requireTerms } from '../../core/terms/check.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import type { LineSource } from '../../core/terms/law.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Almanac } from '../almanac.ts';
import { discountOfCode } from '../discounts/discounts.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { faultOfAnswer } from '../plans/choiceMessages.ts';
import { Plan } from '../plans/Plan.ts';
import { optionsOf } from '../plans/plans.ts';
import { Rate, taxOfRate } from '../plans/Rate.ts';
import { faultsOfTerms } from '../plans/rateTerms.ts';
import { variantsOf } from '../plans/variants.ts';
import type { TakeableCard } from '../rateCards/messages.ts';
import { cardOfCode, cardsFor, requireCard } from '../rateCards/takeCard.ts';
import { settingsOf } from '../settings/settings.ts';
import type { choiceSchema } from '../subscriptions/messages.ts';
import { refusedAt } from './refusedAt.ts';

/** What was chosen, and the group of a customer who is not written down yet. */
export type Choice = z.output<typeof choiceSchema>;
type UsedCode = Awaited<ReturnType<typeof discountOfCode>>;

/** What an enrolment comes to: the terms, and what they were made of. */
export interface Chosen {
  readonly terms: Terms;
  readonly variantId: string | null;
  readonly rateCardId: string | null;
  readonly extras: readonly ChosenExtra[];
  readonly answers: readonly InvoiceField[];
  readonly codes: readonly UsedCode[];
  /** Where lines of other plans come from; empty: there are none, or they are taxed and booked as the rest. */
  readonly sources?: readonly LineSource[];
  /** Goods are among the lines of other plans. */
  readonly withGoods?: boolean;
}

/** Makes terms of what was chosen of a plan's rate, or refuses, beside the field that is not good. */
export async function choose(
  almanac: Almanac,
  wanted: Choice,
  of: {
    readonly plan: Plan;
    readonly rate: Rate;
    readonly customerId: string | null;
    /** Of somebody new; empty: none. */
    readonly group: string;
    readonly on: string;
    /** It is only asked what it would come to: what the plan asks has not been answered yet. */
    readonly asking?: boolean;
  },
  within: Transaction,
): Promise<Chosen> {
  const { plan, rate, customerId, group, on, asking = false } = of;
  const variant = await variantOf(almanac, { plan, rate }, wanted.variantId ?? null, within);
  const use = { rateId: rate.id, variantId: variant?.id ?? null, customerId, group, on };
  const { codes, cards } = await codesOf(almanac, wanted.codes, rate, use, within);
  const card = await cardOf(almanac, wanted, cards, use, within);
  const extras = chooseExtras(extrasOf(plan.extras, rate.terms), wanted.extras);
  if ('says' in extras) throw new RefusedCommand(422, extras.says, `/extras/${extras.key}`);
  if (wanted.lastDay !== undefined) requireOpenEnd(rate, wanted.lastDay, wanted.starts);
  const { noTaxBecause, note: _, ...alone } = wanted.own;
  const own = { ...alone, untaxed: noTaxBecause === undefined ? undefined : true };
  const choice = {
    starts: wanted.starts,
    lastDay: wanted.lastDay,
    quantity: wanted.quantity,
    amount: wanted.amount,
    recurringStart: optionsOf(rate).recurringStart,
    prices: [variant?.prices[rate.id] as LinePrices | undefined, card?.prices],
    extras: extras.taken,
    discounts: codes.map(({ discount }) => discount),
    own,
  };
  const beside = await linesBeside(
    almanac,
    wanted,
    { ...of, host: composeTerms(rate.terms, choice) },
    within,
  );
  const composed = composeTerms(rate.terms, { ...choice, beside: beside.extras });
  // Kept with what is agreed: a later change makes lines of them again, and no tax may come back with it.
  const kept = own.untaxed ? beside.extras.map(withoutTax) : beside.extras;
  const faults = faultsOfOwn(faultsOfTerms(composed), own, {
    lines: ('lines' in composed ? composed.lines.length : 0) - beside.extras.length,
    discounts: composed.discounts?.length ?? 0,
  });
  if (faults.length > 0)
    throw new RefusedTerms(
      faults.map((fault) =>
        wanted.amount !== undefined && fault.pointer === '/lines/0/price/amount'
          ? { ...fault, pointer: '/amount' }
          : fault,
      ),
    );
  return {
    terms: requireTerms(composed),
    variantId: variant?.id ?? null,
    rateCardId: card?.id ?? null,
    extras: [...extras.taken, ...ownExtras(own, rate.terms.currency), ...kept],
    answers: [...(asking ? [] : answersOf(plan, wanted.answers)), ...beside.answers],
    codes,
    sources: beside.sources,
    withGoods: beside.withGoods,
  };
}

const withoutTax = ({ extra: { has, ...extra }, quantity }: ChosenExtra): ChosenExtra => {
  const { tax: _, ...rest } = has ?? {};
  return { quantity, extra: { ...extra, has: rest } };
};

/** The lines of other plans that are charged with a subscription, each as its own rate has it; or a refusal beside the one that cannot be. */
async function linesBeside(
  almanac: Almanac,
  wanted: Choice,
  of: Parameters<typeof choose>[2] & { readonly host: Terms },
  within: Transaction,
) {
  const { rate, host, customerId, group, on } = of;
  const others: Parameters<typeof linesOfPlans>[0][number][] = [];
  const answers: InvoiceField[] = [];
  let withGoods = false;
  const { defaultTax } = await settingsOf(almanac, 'taxing', within);
  const kept = (one: Rate) => ({ taxId: taxOfRate(one, defaultTax), account: optionsOf(one).account });
  for (const [i, line] of wanted.beside.entries()) {
    const at = `/beside/${i}`;
    const other = await Rate.findByPk(line.rateId, { transaction: within });
    const plan = other && (await Plan.findByPk(other.planId, { transaction: within, rejectOnEmpty: true }));
    if (!other || !plan) throw new RefusedCommand(422, 'Choose a plan and a rate.', `${at}/rateId`);
    if (plan.archivedOn !== null || other.archivedOn !== null)
      throw new RefusedCommand(
        422,
        'This rate is archived and not sold any more. Choose another.',
        `${at}/rateId`,
      );
    const apart = whyApart(other.terms, rate.terms);
    if (apart !== null) throw new RefusedCommand(422, apart, `${at}/rateId`);
    const choice = { ...line, starts: wanted.starts, codes: [], own: {}, beside: [] };
    const chosen = await refusedAt(at, () =>
      choose(almanac, choice, { plan, rate: other, customerId, group, on }, within),
    );
    answers.push(...chosen.answers);
    withGoods ||= plan.kind === 'goods';
    others.push({ plan: plan.outerName || plan.name, terms: chosen.terms, ...kept(other) });
  }
  return { ...linesOfPlans(others, { terms: host, ...kept(rate) }), answers, withGoods };
}

/** A last day of one's own stands in the place of the rate's date or of none, never of a number of payments. */
function requireOpenEnd({ terms }: Rate, lastDay: string, starts: string): void {
  if (!('lines' in terms))
    throw new RefusedCommand(422, 'This is sold once: it has no last day.', '/lastDay');
  if (terms.ends?.after !== undefined)
    throw new RefusedCommand(422, 'This rate ends after its payments: it has no other last day.', '/lastDay');
  if (lastDay < starts) throw new RefusedCommand(422, 'The last day comes before the start.', '/lastDay');
}

async function variantOf(
  almanac: Almanac,
  { plan, rate }: { readonly plan: Plan; readonly rate: Rate },
  id: string | null,
  within: Transaction,
) {
  const stored = await variantsOf(almanac, [plan.id], within);
  const variants = variantsAt(
    stored.filter(({ archivedOn }) => archivedOn === null),
    rate.id,
  );
  const found = variants.find((variant) => variant.id === id) ?? null;
  if (found === null && (id !== null || variants.length > 0))
    throw new RefusedCommand(
      422,
      variants.length === 0
        ? 'This rate is offered without variants.'
        : `At this rate, choose one of: ${variants.map(({ name }) => name).join(', ')}.`,
      '/variantId',
    );
  return found;
}

/** The rate card to be applied: the one of a code, the one chosen, or, where nothing was said, that of the customer's group. */
async function cardOf(
  almanac: Almanac,
  wanted: Choice,
  ofCodes: readonly TakeableCard[],
  use: Parameters<typeof cardsFor>[1],
  within: Transaction,
): Promise<TakeableCard | null> {
  if (ofCodes[0]) return ofCodes[0];
  if (wanted.rateCardId === null) return null;
  if (wanted.rateCardId !== undefined)
    return requireCard(almanac, wanted.rateCardId, use, '/rateCardId', within);
  return (await cardsFor(almanac, use, within)).find(({ givenBy }) => givenBy === 'group') ?? null;
}

/** What the codes typed stand for: discounts, of which more than one only where each allows it, or a rate card. */
async function codesOf(
  almanac: Almanac,
  typed: readonly string[],
  rate: Rate,
  use: Parameters<typeof cardsFor>[1],
  within: Transaction,
): Promise<{ codes: UsedCode[]; cards: TakeableCard[] }> {
  const ofRate = { planId: rate.planId, currency: rate.terms.currency, on: use.on };
  const codes: UsedCode[] = [];
  const cards: TakeableCard[] = [];
  for (const [i, code] of typed.entries()) {
    const refuse = (says: string) => {
      throw new RefusedCommand(422, says, `/codes/${i}`);
    };
    const card = await cardOfCode(almanac, code, use, `/codes/${i}`, within);
    if (card) {
      if (cards.length > 0) refuse('Only one rate card can be applied.');
      cards.push(card);
      continue;
    }
    const found = await discountOfCode(almanac, code, ofRate, `/codes/${i}`, within);
    if (codes.some(({ discountId }) => discountId === found.discountId))
      refuse('This is the same discount once more.');
    codes.push(found);
  }
  const alone = codes.findIndex(({ stacks }) => !stacks);
  if (codes.length > 1 && alone >= 0)
    throw new RefusedCommand(422, 'This code cannot be used beside others.', `/codes/${alone}`);
  return { codes, cards };
}

/** What was answered to what the plan asks; an answer that is missing or not good is refused. */
function answersOf(plan: Plan, given: Readonly<Record<string, string>>): InvoiceField[] {
  const unknown = Object.keys(given).find((label) => !plan.asks.some((ask) => ask.label === label));
  if (unknown !== undefined)
    throw new RefusedCommand(422, `The plan does not ask "${unknown}" any more.`, `/answers/${unknown}`);
  return plan.asks.flatMap((ask) => {
    const answer = given[ask.label] ?? '';
    const fault = faultOfAnswer(ask, answer);
    if (fault !== null) throw new RefusedCommand(422, fault, `/answers/${ask.label}`);
    return answer === '' ? [] : [{ label: ask.label, value: answer }];
  });
}
