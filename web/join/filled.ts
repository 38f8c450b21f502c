import { parseDecimal } from '../../core/money/decimal.ts';
import { printAmount, readAmount, readWhole } from '../../core/typed/amount.ts';
import type {
  JoinMessage,
  OfferedPlanView,
  OfferedRateView,
  PublicPage,
  Quote,
} from '../../server/signUp/messages.ts';

/** How somebody pays on a page. */
export type Pays = JoinMessage['pays'];

/** A page as it is being filled in. What is asked is held by its place: labels may be anything. */
export interface Filled {
  rateId: string;
  variantId: string;
  quantity: string;
  amount: string;
  /** By the keys of extra lines: how many. */
  extras: Record<string, string>;
  codes: string[];
  starts: string;
  billingDay: string;
  answers: string[];
  questions: string[];
  customer: {
    name: string;
    email: string;
    phone: string;
    organisation: string;
    address: string;
    postcode: string;
    region: string;
    country: string;
    tax_number: string;
    fields: string[];
  };
  elsewhere: boolean;
  shipping: { name: string; address: string; postcode: string; region: string; country: string };
  pays: Pays;
  card: { number: string; expires: string; holder: string };
  bank: { iban: string; holder: string };
  /** By the ids of policies. */
  agreed: Record<string, boolean>;
  website: string;
}

/** A page before anything was typed. */
export function emptyFor(page: PublicPage, rateId = page.firstRate): Filled {
  const rate = page.rates.find(({ id }) => id === rateId) ?? page.rates[0];
  const plan = planOf(page, rate);
  const place = { name: '', address: '', postcode: '', region: '', country: page.country };
  return {
    rateId: rate?.id ?? '',
    ...chosenFor(plan, rate, page.locale),
    ...{ codes: [], starts: '', billingDay: '', questions: page.questions.map(() => '') },
    customer: {
      ...{
        name: '',
        email: '',
        phone: '',
        organisation: '',
        address: '',
        postcode: '',
        region: '',
        tax_number: '',
      },
      country: page.country,
      fields: page.fields.map(() => ''),
    },
    ...{ elsewhere: false, shipping: place, pays: waysOf(rate)[0] ?? 'card' },
    ...{ card: { number: '', expires: '', holder: '' }, bank: { iban: '', holder: '' } },
    ...{ agreed: {}, website: '' },
  };
}

/** What begins anew when another rate is chosen. */
export function chosenFor(
  plan: OfferedPlanView | undefined,
  rate: OfferedRateView | undefined,
  locale: string,
): Pick<Filled, 'variantId' | 'quantity' | 'amount' | 'extras' | 'answers'> {
  const extras = (plan?.extras ?? []).filter(({ currency }) => currency === rate?.currency);
  return {
    variantId: rate ? (variantsOf(plan, rate)[0]?.id ?? '') : '',
    quantity: '1',
    amount: rate?.chosen ? printAmount(rate.chosen.suggested, locale, rate.digits) : '',
    extras: Object.fromEntries(
      extras.map(({ key, how, min }) => [key, how === 'offered' ? '0' : String(min)]),
    ),
    answers: (plan?.asks ?? []).map(() => ''),
  };
}

export const planOf = (page: PublicPage, rate: OfferedRateView | undefined): OfferedPlanView | undefined =>
  page.plans.find(({ id }) => id === rate?.planId);

/** The variants that a rate can be had in. */
export const variantsOf = (plan: OfferedPlanView | undefined, rate: OfferedRateView) =>
  (plan?.variants ?? []).filter(({ rates }) => rates.length === 0 || rates.includes(rate.id));

/** The ways to pay for a rate, the usual one first. */
export function waysOf(rate: OfferedRateView | undefined): Pays[] {
  if (!rate) return [];
  return rate.methodLater ? [...rate.methods, 'later'] : [...rate.methods];
}

/** What is chosen, as the server is asked about it. */
export function choiceOf(page: PublicPage, filled: Filled): JoinMessage['choice'] {
  const rate = page.rates.find(({ id }) => id === filled.rateId);
  const plan = planOf(page, rate);
  const known = new Set(
    (plan?.extras ?? []).filter(({ currency }) => currency === rate?.currency).map(({ key }) => key),
  );
  const asks = plan?.asks ?? [];
  return {
    rateId: filled.rateId,
    ...(filled.variantId === '' ? {} : { variantId: filled.variantId }),
    ...(rate?.counted && page.quantityMost !== null ? { quantity: quantityOf(page, filled) ?? 1 } : {}),
    ...(rate?.chosen ? { amount: amountOf(page, filled, rate) ?? '' } : {}),
    extras: Object.fromEntries(
      Object.entries(filled.extras)
        .filter(([key]) => known.has(key))
        .map(([key, text]) => [key, Number(text) || 0]),
    ),
    answers: answersOf(asks, filled.answers),
    codes: filled.codes,
    ...(filled.starts === '' ? {} : { starts: filled.starts }),
    ...(filled.billingDay === ''
      ? {}
      : { billingDay: filled.billingDay === 'last' ? ('last' as const) : Number(filled.billingDay) }),
  };
}

/** How many were typed, or null where that is no number that may be. */
export function quantityOf({ locale, quantityMost }: PublicPage, { quantity }: Filled): number | null {
  const found = readWhole(quantity, locale, { least: 1, most: quantityMost ?? 1 });
  return found.ok ? Number(found.value) : null;
}

/** The amount that was typed, in major units with a point; null where it is none. */
export function amountOf(
  { locale }: PublicPage,
  { amount }: Filled,
  { currency, digits }: OfferedRateView,
): string | null {
  const found = readAmount(amount, locale, { currency, decimals: digits });
  return found.ok ? found.value : null;
}

/** Whether an amount of one's own lies within what is allowed. */
export function isAllowed(amount: string, { chosen, digits }: OfferedRateView): boolean {
  const minor = (text: string) => parseDecimal(text, digits);
  if (!chosen) return true;
  return (
    (chosen.min === null || minor(amount) >= minor(chosen.min)) &&
    (chosen.max === null || minor(amount) <= minor(chosen.max))
  );
}

const answersOf = (asks: readonly { readonly label: string }[], given: readonly string[]) =>
  Object.fromEntries(asks.flatMap(({ label }, i) => (given[i] ? [[label, given[i]]] : [])));

/** All of it, as it is sent. */
export function messageOf(
  page: PublicPage,
  filled: Filled,
  of: {
    readonly visit: string;
    readonly quote: Quote;
    readonly cardToken?: string;
    readonly bankToken?: string;
  },
): JoinMessage {
  const { visit, quote, cardToken, bankToken } = of;
  const { fields, ...customer } = filled.customer;
  const rate = page.rates.find(({ id }) => id === filled.rateId);
  const isGoods = planOf(page, rate)?.isGoods ?? false;
  const asksCountry = page.ask.country !== 'no' || isGoods;
  return {
    ...{ visit, version: page.version, language: page.language, choice: choiceOf(page, filled) },
    questions: answersOf(page.questions, filled.questions),
    customer: {
      ...customer,
      email: customer.email.trim(),
      country: asksCountry ? customer.country : '',
      language: page.ask.language === 'no' ? '' : page.language,
      fields: answersOf(page.fields, fields),
      shipping: isGoods && filled.elsewhere ? filled.shipping : null,
    },
    pays: filled.pays,
    ...(cardToken ? { cardToken } : {}),
    ...(bankToken ? { bankToken } : {}),
    agreed: page.policies.filter(({ id }) => filled.agreed[id]).map(({ id }) => id),
    shown: [...quote.dues],
    website: filled.website,
  };
}

/** The field of the page that a pointer of the server's refusal stands for; null: none of them. */
export function fieldAt(page: PublicPage, filled: Filled, pointer: string): string | null {
  const [, first = '', second = '', ...rest] = pointer
    .split('/')
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
  const label = [second, ...rest].join('/');
  const placeOf = (asks: readonly { readonly label: string }[], of: string, name: string) => {
    const at = asks.findIndex((ask) => ask.label === of);
    return at < 0 ? null : `${name}.${at}`;
  };
  if (first === 'questions') return placeOf(page.questions, label, 'questions');
  if (first === 'choice') {
    const rate = page.rates.find(({ id }) => id === filled.rateId);
    if (second === 'answers') return placeOf(planOf(page, rate)?.asks ?? [], rest.join('/'), 'answers');
    if (second === 'extras') return `extras.${rest.join('/')}`;
    if (second === 'codes') return 'code';
    // Goods go to whatever address was given.
    if (second === 'place') return filled.elsewhere ? `shipping.${rest[0]}` : `customer.${rest[0]}`;
    return second || null;
  }
  if (first === 'customer' && second === 'fields')
    return placeOf(page.fields, rest.join('/'), 'customer.fields');
  if (first === 'customer' && second === 'shipping') return `shipping.${rest[0]}`;
  if (first === 'customer') return `customer.${second}`;
  if (first === 'cardToken' || first === 'card')
    return second === 'expires' || second === 'holder' ? `card.${second}` : 'card.number';
  if (first === 'bankToken' || first === 'bank') return second === 'holder' ? 'bank.holder' : 'bank.iban';
  if (first === 'pays') return 'pays';
  return null;
}
