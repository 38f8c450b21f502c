import { formatDay, toDay } from '../../core/dates/day.ts';
import { factsOf, type LetterEvent, type LetterField } from '../../core/letters/events.ts';
import { money, onDate, sentence, type Said } from '../../core/letters/said.ts';
import type { SayableTerms } from '../../core/words/sayRate.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { methodInUse } from '../payments/methodsInTurn.ts';
import { saidCancelling } from '../policies/saidCancelling.ts';
import { saidCard, saidPeriod } from './occasions.ts';
import type { LetterSays } from './templates.ts';

/** What a letter would tell of, and where that was taken from. */
export interface ExampleSays {
  readonly says: LetterSays;
  readonly from: string;
  readonly customerId: string | undefined;
  readonly rateId: string | undefined;
  readonly how: string | null;
}

interface Facts {
  readonly plan: string;
  readonly rateId: string;
  readonly terms: SayableTerms;
  readonly nextOn: string | null;
  readonly nextAmount: string | null;
  readonly invoice: string | null;
  readonly periodFrom: string | null;
  readonly periodTo: string | null;
  readonly dueOn: string | null;
  readonly total: string | null;
}

const FACTS = `
  select coalesce(nullif(p.outer_name, ''), p.name) as plan, r.id::text as "rateId", coalesce(s.terms, r.terms) as terms,
    s.next_on as "nextOn", s.next_amount::text as "nextAmount", i.prefix || i.number as invoice, i.period_from as "periodFrom",
    i.period_to as "periodTo", i.due_on as "dueOn", i.total::text
  from rates r join plans p on p.id = r.plan_id
  left join lateral (select * from subscriptions s where s.customer_id = $customerId and s.rate_id = r.id
    order by s.id desc limit 1) s on true
  left join lateral (select * from invoices i where i.subscription_id = s.id order by i.id desc limit 1) i on true`;

/** What a made-up letter is about where nothing real is known: minor units. */
const MADE_UP_AMOUNT = 1200n;

/**
 * What a letter of an event would say to a customer, of their own plan, card and newest invoice; what only the event itself could
 * tell is made up. Without a customer all of it is.
 * @param wanted.how the case of the event; without it the first
 */
export async function exampleSays(
  almanac: Almanac,
  event: LetterEvent,
  wanted: { readonly customerId: string | null; readonly rateId: string | null; readonly how: string | null },
): Promise<ExampleSays> {
  const { customerId } = wanted;
  const customer = customerId === null ? null : await Customer.findByPk(customerId);
  if (customerId !== null && !customer)
    throw new RefusedCommand(422, 'There is no such customer.', '/customerId');
  const { name: business, homeCurrency } = await Business.findOne({ rejectOnEmpty: true });
  const today = await businessDateOf(almanac);
  const facts = await factsOfCustomer(almanac, wanted);
  const card = customerId === null ? null : await methodInUse({ customerId, ownMethodId: null });
  const currency = facts?.terms.currency ?? homeCurrency;
  const soon = formatDay(toDay(today) + 7);
  const amount = money(BigInt(facts?.total ?? facts?.nextAmount ?? MADE_UP_AMOUNT), currency);
  const period = saidPeriod({
    periodFrom: facts?.periodFrom ?? today,
    periodTo: facts?.periodTo ?? formatDay(toDay(today) + 30),
  });
  const { how: cases, fields } = factsOf(event);
  const how = cases
    ? wanted.how !== null && Object.hasOwn(cases, wanted.how)
      ? wanted.how
      : (Object.keys(cases)[0] ?? '')
    : null;
  const usual: Readonly<Partial<Record<LetterField, Said>>> = {
    business,
    customer: customer?.name ?? 'Ada Fenn',
    plan: facts?.plan ?? 'Hive Watch',
    amount,
    invoice: facts?.invoice ?? '1001',
    card: card ? saidCard(card) : { network: 'Larkfield', lastFour: '4242' },
    date: onDate('invoice' in fields ? (facts?.dueOn ?? soon) : soon),
    period,
    reason: { declined: '51' },
    next: onDate(facts?.nextOn ?? soon),
    words: '',
    owed: amount,
    policy: await saidCancelling(almanac, today),
  };
  const says = {
    ...usual,
    ...ofEvent(event, { amount, soon: onDate(soon), business, terms: facts?.terms, how }),
  };
  const named = Object.fromEntries(
    Object.entries(says).filter(
      ([field]) => field in fields || ['business', 'customer', 'plan'].includes(field),
    ),
  ) as unknown as LetterSays;
  return {
    says: { ...named, ...(how === null ? {} : { how }) },
    from: customer
      ? facts?.invoice
        ? `The facts of ${customer.name} and of invoice ${facts.invoice}; what only the event tells is made up.`
        : `The facts of ${customer.name}; what only the event tells is made up.`
      : 'Somebody made up.',
    ...{ customerId: customer?.id, rateId: facts?.rateId, how },
  };
}

async function factsOfCustomer(
  { db }: Almanac,
  { customerId, rateId }: { readonly customerId: string | null; readonly rateId: string | null },
): Promise<Facts | null> {
  if (rateId !== null) return db.row<Facts>(`${FACTS} where r.id = $rateId`, { customerId, rateId });
  if (customerId === null) return null;
  return db.row<Facts>(
    `${FACTS} where r.id = (select rate_id from subscriptions where customer_id = $customerId order by id desc limit 1)`,
    { customerId },
  );
}

/** What single events tell otherwise than most. */
function ofEvent(
  event: LetterEvent,
  of: {
    readonly amount: Said;
    readonly soon: Said;
    readonly business: string;
    readonly terms: SayableTerms | undefined;
    readonly how: string | null;
  },
): Readonly<Partial<Record<LetterField, Said>>> {
  const { amount, soon } = of;
  switch (event) {
    case 'message':
      return { reason: 'What you write to this customer stands here.' };
    case 'trial without a card':
      return { reason: sentence('without card end', {}) };
    case 'renewal coming':
      return { next: sentence('invoice follows', { date: soon }) };
    case 'receipt':
      return of.how === 'by hand'
        ? { reason: sentence('by transfer', {}) }
        : { reason: of.business.toUpperCase() };
    case 'payment declined':
    case 'payment still declined':
      return { next: sentence('try again on', { date: soon }) };
    case 'invoice overdue':
      return { reason: sentence('invoice unpaid', {}), next: sentence('can be paid', {}) };
    case 'last reminder':
      return { next: '' };
    case 'card expiring':
      return { next: sentence('would not go through', { date: soon }) };
    case 'terms changing':
      return { amount: of.terms ? { rate: of.terms } : amount, reason: amount };
    case 'subscription altered':
    case 'cancelled': {
      const kind = event === 'cancelled' ? 'cancel' : 'quantity';
      const says = event === 'cancelled' ? 'it ends' : 'the quantity is 3 from then on';
      return {
        reason: sentence('altered', { says, kind, date: soon }),
        next: sentence('next payment', { amount, date: soon }),
      };
    }
    case 'mandate confirmed':
      return { reason: sentence('agreedCard', { business: of.business }) };
    case 'mandate withdrawn':
      return { next: '' };
    case 'invoice to pay':
      return { next: '' };
    case 'invoice in parts':
      return {
        period: sentence('amount on', { amount, date: soon }),
        next: sentence('each charged by itself', {}),
      };
    case 'part due':
      return {
        period: sentence('part of', { place: '2', parts: '3' }),
        next: sentence('pay on own page', {}),
      };
    case 'credit note':
      return { words: 'CN-1', reason: 'as we agreed with you', next: sentence('your credit', { amount }) };
    case 'refund':
      return {
        reason: 'as we agreed with you',
        period: of.how === 'by hand' ? sentence('by transfer', {}) : '',
      };
    default:
      return {};
  }
}
