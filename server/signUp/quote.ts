import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { outlineOf } from '../../core/listing/outline.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { formatDecimal } from '../../core/money/decimal.ts';
import { TAX_RATE_PLACES, type CompiledTerms } from '../../core/agreed/terms.ts';
import { taxOf } from '../../core/pricing/tax.ts';
import { plannedThread } from '../../core/thread/thread.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { publicGateways } from '../gateways/publicGateway.ts';
import { RefusedCommand } from '../http/problem.ts';
import { compiledReckoning, duesOf, reckon, type Reckoning, type TaxedAs } from '../reckonings/reckon.ts';
import { refusedAt } from '../reckonings/refusedAt.ts';
import type { PaymentKind } from '../settings/messages.ts';
import { chosenHere } from './chosenHere.ts';
import type { PageMethod, Quote, QuotedPart, quoteSchema, SignUpPageValue } from './messages.ts';
import { valueOf } from './pages.ts';
import { pageAt } from './publicPage.ts';

/** By which of Setup's rules due dates move, for each way to pay on a page. */
export const PAID_AS: Readonly<Record<PageMethod | 'later', PaymentKind>> = {
  card: 'card',
  'bank debit': 'bank debit',
  'online transfer': 'by invoice',
  invoice: 'by invoice',
  later: 'card',
};

/** The thread of a quote shows so many days. */
const THREAD_DAYS = 400;
/** Of what ends, so many payments are added up. */
const MOST_PAYMENTS = 400;

/** What a choice on a page comes to: priced as it would be agreed to now, and kept nowhere. */
export async function quote(
  almanac: Almanac,
  key: string,
  asked: z.output<typeof quoteSchema>,
  rehearsal: boolean,
): Promise<Quote> {
  const page = await pageAt(key, rehearsal);
  // What is not offered yet has no price for strangers.
  if (!page.isOn && !rehearsal) requireOpen('off');
  return quoteOf(almanac, valueOf(page), asked);
}

/** The same on a page that may still be being written. */
export async function quoteOf(
  almanac: Almanac,
  page: SignUpPageValue,
  asked: z.output<typeof quoteSchema>,
): Promise<Quote> {
  const today = await businessDateOf(almanac);
  const { country, region, pays } = asked;
  const who: TaxedAs = {
    ...{ country: country === '' ? null : country, region, taxExempt: '', paidAs: PAID_AS[pays] },
  };
  const given = await publicGateways(almanac, { rateId: asked.choice.rateId });
  return almanac.db.transaction(async (within) => {
    const reckoning = await reckonHere(almanac, page, { choice: asked.choice, today, who }, within);
    const terms = await compiledReckoning(almanac, reckoning, who, within);
    const dues = await duesOf(almanac, reckoning, who, within);
    const { trialEnds, ends } = outlineOf(terms);
    const { gateway, takesCards, bank } = given;
    return {
      ...{
        currency: terms.currency,
        dues,
        now: dueBy(dues, today).toString(),
        taxes: taxesIn(terms),
        first: firstParts(terms, reckoning.plan.outerName || reckoning.plan.name),
      },
      ...{ starts: reckoning.terms.starts, trialEnds: trialEnds === null ? null : formatDay(trialEnds) },
      ends: ends === null ? null : formatDay(ends),
      inAll: ends === null ? null : inAllOf(terms),
      thread: plannedThread(reckoning.terms, formatDay(toDay(today) + THREAD_DAYS), undefined, terms),
      ...{
        takesCards,
        gateway: gateway && { url: gateway.url, publicKey: gateway.publicKey, holder: gateway.holder },
      },
      bank: bank && { url: bank.url, publicKey: bank.publicKey },
    };
  });
}

/** Reckons what was chosen on a page; what is refused of it stands beside its field of the page. */
export function reckonHere(
  almanac: Almanac,
  page: SignUpPageValue,
  of: {
    readonly choice: z.output<typeof quoteSchema>['choice'];
    readonly today: string;
    readonly who: TaxedAs;
    /** Where goods go to; absent: that was not said yet, and is not looked at. */
    readonly usual?: Parameters<typeof reckon>[2]['usual'];
  },
  within: Transaction,
): Promise<Reckoning> {
  const { choice, today, usual } = of;
  return refusedAt('/choice', () =>
    reckon(
      almanac,
      chosenHere(page, choice, today),
      { customerId: null, group: '', on: today, usual: usual ?? null, asking: usual === undefined },
      within,
    ),
  );
}

/** What of some charges is due by a day, minor units. */
export const dueBy = (dues: Quote['dues'], day: string): bigint =>
  dues.reduce((sum, { dueOn, due }) => (dueOn <= day ? sum + BigInt(due) : sum), 0n);

/** The rates of the taxes in the first payments. */
function taxesIn(terms: CompiledTerms): string[] {
  const walk = new PaymentWalk(terms);
  const rates = new Set<string>();
  let payment = walk.next();
  for (let n = 0; payment !== null && n < 3; n += 1, payment = walk.next())
    for (const { tax, taxed } of payment.money.taxes)
      if (tax !== null && taxed.tax > 0n) rates.add(plain(formatDecimal(tax.rate, TAX_RATE_PLACES)));
  return [...rates];
}

/**
 * What the first payment that costs something is made of, where that is not simply the price of a period. Each part is with its
 * own tax; what rounding leaves between them and the whole is in the first.
 */
function firstParts(terms: CompiledTerms, plan: string): QuotedPart[] {
  const walk = new PaymentWalk(terms);
  let payment = walk.next();
  while (payment !== null && payment.due === 0n) payment = walk.next();
  if (payment === null) return [];
  const { kind, from, to, money } = payment;
  const isPlain = kind === 'period' && money.lines.every(({ role }) => role === 'recurring');
  if (isPlain || kind === 'once') return [];
  const parts = money.lines.filter(({ amount }) => amount !== 0n);
  const taxed = parts.map(({ amount, tax }) => (tax === null ? amount : taxOf(amount, tax).total));
  const rest = money.total - taxed.reduce((sum, one) => sum + one, 0n);
  return parts.map(({ role, name, quantity }, i) => ({
    what: role === 'setup' || role === 'once' || role === 'trial' ? role : kind === 'stub' ? 'stub' : 'line',
    ...{ name: name || plan, quantity, days: to - from, until: formatDay(to) },
    amount: ((taxed[i] ?? 0n) + (i === 0 ? rest : 0n)).toString(),
  }));
}

const plain = (text: string) => (text.includes('.') ? text.replace(/\.?0+$/, '') : text);

function inAllOf(terms: CompiledTerms): string | null {
  const walk = new PaymentWalk(terms);
  let sum = 0n;
  let payment = walk.next();
  for (let n = 0; payment !== null; n += 1, payment = walk.next()) {
    if (n === MOST_PAYMENTS) return null;
    sum += payment.due;
  }
  return sum.toString();
}

/** Refuses a page on which nobody can join. */
export function requireOpen(closed: string | null): void {
  const says: Readonly<Record<string, string>> = {
    off: 'Nobody can join here at present.',
    over: 'One could join here until a day that is over.',
    full: 'All places are taken. Nothing was charged.',
    nothing: 'There is nothing to join at present.',
  };
  if (closed !== null) throw new RefusedCommand(410, says[closed] ?? 'Nobody can join here.');
}
