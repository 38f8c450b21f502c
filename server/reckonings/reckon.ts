import type { Transaction } from 'sequelize';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { firstDues, type FirstDue } from '../../core/listing/firstDues.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import { sayAgreedByLaw } from '../../core/words/sayAgreedByLaw.ts';
import type { Almanac } from '../almanac.ts';
import { Customer } from '../customers/Customer.ts';
import type { Place } from '../customers/placeMessages.ts';
import { requirePlace, shipsTo } from '../customers/places.ts';
import { RefusedCommand } from '../http/problem.ts';
import { Plan } from '../plans/Plan.ts';
import { Rate, taxOfRate } from '../plans/Rate.ts';
import { settingsOf } from '../settings/settings.ts';
import type { PaymentKind } from '../settings/messages.ts';
import { loadLaw, shiftsOf } from '../subscriptions/law.ts';
import { choose, type Choice, type Chosen } from './choose.ts';

/** What an enrolment comes to, whoever takes it: the rate, and terms that no later change of it alters. */
export interface Reckoning extends Chosen {
  readonly plan: Plan;
  readonly rate: Rate;
  /** The version of the rate that was priced. */
  readonly rateVersion: number;
  /** Why no tax is charged, where that was agreed. */
  readonly noTaxBecause: string;
  /** Stands on every invoice. */
  readonly note: string;
  /** Where it is served or shipped to; null: where the customer is billed. */
  readonly place: Place | null;
  /** The business day on which it was priced. */
  readonly pricedOn: string;
}

/** Whose taxes and working days a reckoning is read by. */
export type TaxedAs = Pick<Customer, 'country' | 'region' | 'taxExempt'> & { readonly paidAs?: PaymentKind };

/** So many of the first charges are shown with a reckoning. */
const SHOWN_DUES = 12;

/** Makes a reckoning of what was chosen, or refuses, beside the field that is not good. */
export async function reckon(
  almanac: Almanac,
  choice: Choice,
  of: {
    readonly customerId: string | null;
    readonly group: string;
    readonly on: string;
    /** Where goods go to where nothing is said, of somebody who is not written down yet. */
    readonly usual?: Place | null;
    /** It is only asked what it would come to: where goods go, and what the plan asks, is not known yet. */
    readonly asking?: boolean;
  },
  within: Transaction,
): Promise<Reckoning> {
  const { on } = of;
  if (choice.starts < on)
    throw new RefusedCommand(
      422,
      `Start on ${on} or later: earlier periods would all be charged at once.`,
      '/starts',
    );
  const rate = await Rate.findByPk(choice.rateId, { transaction: within });
  if (!rate) throw new RefusedCommand(422, 'Choose a plan and a rate.', '/rateId');
  const plan = await Plan.findByPk(rate.planId, { transaction: within, rejectOnEmpty: true });
  if (plan.archivedOn !== null || rate.archivedOn !== null)
    throw new RefusedCommand(422, 'This rate is archived and not sold any more. Choose another.', '/rateId');
  const chosen = await choose(almanac, choice, { ...of, plan, rate }, within);
  const usual = of.usual ?? (await usualPlace(of.customerId, within));
  const served = await settingsOf(almanac, 'customers', within);
  const isGoods = of.asking !== true && (plan.kind === 'goods' || chosen.withGoods === true);
  const place = requirePlace(isGoods, { given: choice.place, usual }, served);
  const { noTaxBecause = '', note = '' } = choice.own;
  return { ...chosen, plan, rate, rateVersion: rate.version, noTaxBecause, note, place, pricedOn: on };
}

/** Where goods of a customer go to; null where that is not known. */
async function usualPlace(customerId: string | null, within: Transaction): Promise<Place | null> {
  const customer = customerId === null ? null : await Customer.findByPk(customerId, { transaction: within });
  return customer && shipsTo({ ...customer.get(), shipping: customer.shipping ?? null });
}

/** The first charges of a reckoning for somebody, by the taxes and working days in force. */
export async function duesOf(
  almanac: Almanac,
  reckoning: Pick<Reckoning, 'rate' | 'terms' | 'place' | 'sources'>,
  who: TaxedAs,
  within: Transaction,
): Promise<FirstDue[]> {
  return firstDues(await compiledReckoning(almanac, reckoning, who, within), SHOWN_DUES);
}

/** The terms of a reckoning for somebody, by the taxes and working days in force. */
export async function compiledReckoning(
  almanac: Almanac,
  reckoning: Pick<Reckoning, 'rate' | 'terms' | 'place' | 'sources'>,
  who: TaxedAs,
  within: Transaction,
): Promise<CompiledTerms> {
  const law = await loadLaw(almanac, within);
  return law.compile(await factsOf(almanac, reckoning, who, within));
}

/** What a reckoning comes to in a line: '£19.00 + 20 % VAT = £22.80 every month'. */
export async function sayReckoning(
  almanac: Almanac,
  reckoning: Pick<Reckoning, 'rate' | 'terms' | 'place' | 'pricedOn'>,
  who: TaxedAs,
  within: Transaction,
): Promise<string> {
  const { terms, pricedOn } = reckoning;
  const law = await loadLaw(almanac, within);
  const facts = await factsOf(almanac, reckoning, who, within);
  return sayAgreedByLaw(law, facts, terms.starts > pricedOn ? terms.starts : pricedOn, pricedOn);
}

async function factsOf(
  almanac: Almanac,
  { rate, terms, place, sources = [] }: Pick<Reckoning, 'rate' | 'terms' | 'place' | 'sources'>,
  who: TaxedAs,
  within: Transaction,
) {
  const { taxExempt = '', paidAs = 'card' } = who;
  const { country = null, region = '' } = place ?? who;
  const { defaultTax } = await settingsOf(almanac, 'taxing', within);
  const { country: home } = await settingsOf(almanac, 'business', within);
  const shift = (await shiftsOf(almanac, within))[paidAs];
  return {
    ...{ terms, shift, country, region, tax_exempt: taxExempt, line_sources: sources },
    tax_id: taxOfRate(rate, defaultTax),
    works_by: shift === null ? null : (country ?? home),
  };
}

/** Refuses where the charges come out otherwise than they were shown: whoever agrees is to have seen them. */
export function requireAsShown(
  dues: readonly FirstDue[],
  shown: readonly FirstDue[] | undefined,
  currency: string,
): void {
  const at = shown?.findIndex(({ dueOn, due }, i) => dues[i]?.dueOn !== dueOn || dues[i]?.due !== due) ?? -1;
  const other = shown?.[at];
  if (!other) return;
  const now = dues[at];
  const say = ({ dueOn, due }: FirstDue) => `${sayAmount(BigInt(due), currency)} on ${sayDate(dueOn)}`;
  throw new RefusedCommand(
    409,
    `The charges come out otherwise than they were shown: ${now ? say(now) : 'none'} instead of ${say(other)}. The price, a tax or a code was changed meanwhile: look at them once more.`,
    '/shown',
  );
}
