import { sayCountry } from '../../core/words/countries.ts';
import { sayPlace, type Place } from '../customers/placeMessages.ts';
import { linesListedOn } from '../../core/alter/linesOn.ts';
import { formatDay } from '../../core/dates/day.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { Thread } from '../../core/thread/thread.ts';
import { saySettled } from '../../core/words/saySettled.ts';
import { sayAgreedByLaw } from '../../core/words/sayAgreedByLaw.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import {
  CANNOT_CHARGE,
  METHOD,
  methodJoin,
  sayHindrance,
  sayMethod,
  type MethodFacts,
} from '../customers/chargeable.ts';
import type { ListQuery, Page } from '../http/list.ts';
import { byCustomer, readAll, readLongPage, type LongList, type Order } from '../http/longList.ts';
import { RefusedCommand } from '../http/problem.ts';
import { searchPatterns, SUBSCRIPTION_SEARCH } from '../http/search.ts';
import type { InvoiceField, InvoiceLine } from '../invoices/invoiceParts.ts';
import type { Law, LawFacts } from '../../core/terms/law.ts';
import { duesAhead } from '../invoices/dues.ts';
import { LAW_COLUMNS, loadLaw } from './law.ts';
import type { ComingPayment, InvoiceView, SubscriptionRow, SubscriptionView } from './messages.ts';
import { agreementOf } from '../reckonings/agreements.sql.ts';
import { sayExpiry } from '../customers/methods.ts';
import { sayCard } from '../notices/occasions.ts';
import { methodsInTurn, nextMethod, type Charged } from '../payments/methodsInTurn.ts';
import { sayOutcome } from '../payments/sayOutcome.ts';
import type { AttemptState } from '../payments/states.ts';
import { CANNOT_BE_CHARGED, NOT_ENDED, type SubscriptionState } from './states.ts';
import { threadsOf } from './threads.ts';

/** Payments to come that a subscription's page lists. */
const COMING = 12;

const SELECT = `
  select s.id, s.customer_id, c.name as customer, p.name as plan, r.name as rate, s.state,
    s.terms, ${LAW_COLUMNS}, s.walk, s.closed_on, s.service_stopped_on, s.starts_on, s.ends_on, s.wake_on, s.next_on, s.next_amount::text, ${METHOD}
  from subscriptions s ${methodJoin('coalesce(s.next_on, $today::date)')}
  join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id`;

interface Row extends LawFacts, MethodFacts {
  readonly id: string;
  readonly customer_id: string;
  readonly customer: string;
  readonly plan: string;
  readonly rate: string;
  readonly state: SubscriptionState;
  readonly walk: WalkPosition | null;
  readonly closed_on: string | null;
  readonly service_stopped_on: string | null;
  readonly starts_on: string;
  readonly ends_on: string | null;
  /** Its next payment, as it is foreseen. */
  readonly next_on: string | null;
  readonly next_amount: string | null;
}

/** What subscriptions can be asked for by date, as conditions on the days asked for. */
const DATED: Readonly<Record<string, string>> = {
  trial: `s.state in ('trial', 'scheduled') and s.trial_ends_on between $from::date and $until::date`,
  ends: `s.state not in ('ended', 'lapsed') and s.ends_on between $from::date and $until::date`,
  starts: 's.starts_on between $from::date and $until::date',
  overdue: `exists (select 1 from open_dues d join invoices i on i.id = d.invoice_id
    where i.subscription_id = s.id and d.due_on < $today::date and d.due_on between $from::date and $until::date)`,
};

/** By plans and their rates, along which all subscriptions are come to that are of them. */
const BY_PLAN: Order = {
  by: ['p.name', 'r.name', 'r.id'],
  joins: 'join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id',
  along: (direction) => `
    (select r.id from rates r join plans p on p.id = r.plan_id
     order by p.name ${direction}, r.name ${direction}, r.id ${direction} offset 0) r
    cross join lateral (select x.* from subscriptions x where x.rate_id = r.id order by x.id ${direction} offset 0) s`,
};

/** One page of the subscriptions, with the thread of each. */
export async function listSubscriptions(
  almanac: Almanac,
  query: SubscriptionQuery,
): Promise<Page<SubscriptionRow>> {
  const page = await readLongPage<Row>(almanac.db, await subscriptionList(almanac, query), query);
  return { ...page, rows: await viewsOf(almanac, page.rows) };
}

/** All subscriptions that are asked for, some at a time, for files: their threads, which nobody could draw there, are left empty. */
export async function* allSubscriptions(
  almanac: Almanac,
  query: SubscriptionQuery,
): AsyncGenerator<SubscriptionRow[]> {
  for await (const rows of readAll<Row>(almanac.db, await subscriptionList(almanac, query), query))
    yield viewsOf(almanac, rows, { threads: false });
}

type SubscriptionQuery = ListQuery & { readonly customerId?: string | undefined };

async function subscriptionList(almanac: Almanac, query: SubscriptionQuery): Promise<LongList> {
  const { search, state, kind, dated, customerId } = query;
  return {
    ...{ from: 'subscriptions s', alias: 's', search: search === '' ? undefined : SUBSCRIPTION_SEARCH },
    where: [
      ...(state === '' ? [] : [state === NOT_ENDED ? `s.state <> 'ended'` : 's.state = $state']),
      ...(customerId === undefined ? [] : ['s.customer_id = $customerId::bigint']),
      ...(DATED[dated] === undefined ? [] : [DATED[dated]]),
      ...(kind === CANNOT_BE_CHARGED ? [CANNOT_CHARGE] : []),
    ],
    shown: `${SELECT} where s.id = any($ids::bigint[])`,
    bound: {
      ...{ patterns: searchPatterns(search), state, customerId: customerId ?? '' },
      ...{ from: query.from || '0001-01-01', until: query.until || '9999-12-31' },
      today: await businessDateOf(almanac),
    },
    orders: {
      customer: byCustomer('subscriptions', 's'),
      plan: BY_PLAN,
      state: { by: ['s.state'] },
      starts: { by: ['s.starts_on'] },
      next: { by: ['s.next_on'], mayLack: true },
    },
  };
}

async function viewsOf(
  almanac: Almanac,
  rows: readonly Row[],
  shows = { threads: true },
): Promise<SubscriptionRow[]> {
  const law = await loadLaw(almanac);
  const today = await businessDateOf(almanac);
  const threads = shows.threads ? await threadsOf(almanac, rows, today, law) : new Map<string, Thread>();
  const dues = await duesAhead(
    almanac,
    rows.map(({ id }) => id),
  );
  return rows.map((row) => {
    const due = dues.find(({ subscriptionId }) => subscriptionId === row.id);
    const isOver = row.state === 'lapsed' || row.state === 'ended';
    return {
      id: row.id,
      customerId: row.customer_id,
      customer: row.customer,
      plan: row.plan,
      rate: row.rate,
      startsOn: row.starts_on,
      endsOn: row.ends_on,
      says: sayAgreedByLaw(law, row, today),
      state: row.state,
      nextOn: due?.dueOn ?? (isOver ? null : row.next_on),
      nextAmount: due?.owed ?? (isOver ? null : row.next_amount),
      thread: threads.get(row.id) ?? { starts: row.terms.starts, ends: null, stretches: [], marks: [] },
      currency: row.terms.currency,
      method: sayMethod(row),
      cannotCharge: sayHindrance(row),
    };
  });
}

/** The payments of a subscription still to be invoiced, as far as asked. */
export function comingOf(
  subscription: LawFacts & { walk: WalkPosition | null; state: string },
  count: number,
  law: Law,
): ComingPayment[] {
  if (subscription.state === 'lapsed' || subscription.state === 'ended') return [];
  const walk = new PaymentWalk(law.compile(subscription), subscription.walk ?? undefined);
  const coming: ComingPayment[] = [];
  for (let payment = walk.next(); payment !== null && coming.length < count; payment = walk.next()) {
    coming.push({
      from: formatDay(payment.from),
      dueOn: formatDay(payment.dueOn),
      kind: payment.kind,
      due: payment.due.toString(),
      tax: payment.money.tax.toString(),
    });
  }
  return coming;
}

type Choices = Pick<
  SubscriptionView,
  | 'planId'
  | 'rateId'
  | 'variant'
  | 'rateCard'
  | 'extras'
  | 'answers'
  | 'collects'
  | 'invoicing'
  | 'issueBefore'
  | 'cancelledBy'
  | 'withoutMethod'
  | 'ownMethodId'
>;

const COUNTED = ['each', 'each-tier', 'reached-tier', 'step', 'pack'];

/** Whether terms are paid in instalments. */
export function paysInstalments(terms: Terms): boolean {
  return 'lines' in terms && terms.lines.some(({ price }) => price.scheme === 'instalments');
}

/** How many of its first line a subscription has on a day; null where its price does not look at that. */
export function quantityOf({ terms }: { readonly terms: Terms }, today: string): number | null {
  const first = 'lines' in terms ? linesListedOn(terms, today)[0] : undefined;
  return first && COUNTED.includes(first.price.scheme) ? (first.quantity ?? 1) : null;
}

/** Everything that the page of one subscription shows. */
export async function readSubscription(almanac: Almanac, id: string): Promise<SubscriptionView> {
  const row = await almanac.db.row<
    Row & {
      trial_ends_on: string | null;
      ended_why: string | null;
      email: string;
    } & Choices & { readonly place: Place | null }
  >(
    `select x.*, s.trial_ends_on, s.ended_why, c.email, r.plan_id::text as "planId", s.rate_id::text as "rateId",
       (select json_build_object('id', v.id::text, 'name', v.name) from variants v where v.id = s.variant_id) as variant,
       (select json_build_object('id', k.id::text, 'name', k.name) from rate_cards k where k.id = s.rate_card_id) as "rateCard",
       s.extras, s.answers, s.collects, s.invoicing, s.issue_before as "issueBefore", s.cancelled_by as "cancelledBy", s.without_method as "withoutMethod",
       s.own_method_id::text as "ownMethodId", s.served_at as place
     from (${SELECT}) as x join subscriptions s on s.id = x.id join rates r on r.id = s.rate_id
     join customers c on c.id = x.customer_id where x.id = $id`,
    { id, today: await businessDateOf(almanac) },
  );
  if (!row) throw new RefusedCommand(404, 'There is no such subscription.');
  const [view] = await viewsOf(almanac, [row]);
  if (!view) throw new RefusedCommand(404, 'There is no such subscription.');
  const [invoices, cards, agreement, openCase] = await Promise.all([
    readInvoices(almanac, id),
    readCards({ customerId: row.customer_id, ownMethodId: row.ownMethodId }),
    agreementOf(almanac, id),
    almanac.db.row<{ id: string; next_rung_on: string | null; opened_on: string }>(
      `select id, next_rung_on, opened_on from recovery_cases where subscription_id = $id and state = 'open'`,
      { id },
    ),
  ]);
  return {
    ...view,
    currency: row.terms.currency,
    startsOn: row.starts_on,
    endsOn: row.ends_on,
    closedOn: row.closed_on,
    serviceStoppedOn: row.service_stopped_on,
    endedWhy: row.ended_why,
    trialEndsOn: row.trial_ends_on,
    email: row.email,
    card: cards[0] ?? null,
    then: cards.slice(1).map(({ says }) => says),
    ownMethodId: row.ownMethodId,
    openCase: openCase && { id: openCase.id, says: `Open since ${openCase.opened_on}` },
    invoices,
    coming: [
      ...(await duesAhead(almanac, [id])).map(({ dueOn, owed }) => ({
        from: dueOn,
        dueOn,
        kind: 'due',
        due: owed,
      })),
      ...comingOf(row, COMING, await loadLaw(almanac)),
    ],
    agreement,
    ...{ planId: row.planId, rateId: row.rateId, variant: row.variant, rateCard: row.rateCard },
    ...{ extras: row.extras, answers: row.answers, collects: row.collects },
    ...{ cancelledBy: row.cancelledBy, withoutMethod: row.withoutMethod },
    ...{ invoicing: row.invoicing, issueBefore: row.issueBefore },
    place: row.place && { ...row.place, says: sayPlace(row.place, sayCountry) },
    instalments: paysInstalments(row.terms),
    quantity: quantityOf(row, await businessDateOf(almanac)),
  };
}

/** What a subscription is charged to, in turn, beginning with what the next charge goes to. */
async function readCards(of: Charged): Promise<NonNullable<SubscriptionView['card']>[]> {
  const methods = await methodsInTurn(of);
  const next = await nextMethod(methods, new Set());
  const cards = next ? [next, ...methods.filter(({ id }) => id !== next.id)] : methods;
  return cards.map((card) => ({
    says: sayCard(card),
    expires: sayExpiry(card),
    state: card.state,
  }));
}

async function readInvoices(almanac: Almanac, subscriptionId: string): Promise<InvoiceView[]> {
  interface InvoiceRow {
    id: string;
    number: string;
    kind: string;
    period_from: string;
    period_to: string;
    issued_on: string;
    due_on: string;
    total: string;
    collected: string;
    owed: string;
    state: string;
    currency: string;
    lines: InvoiceLine[];
    prefix: string;
    fields: InvoiceField[];
  }
  interface AttemptRow {
    id: string;
    invoice_id: string;
    attempted_on: string;
    amount: string;
    state: AttemptState;
    response_code: string | null;
    expected_on: string | null;
    waits_for: 'cardholder' | null;
    reason: string;
    card: string;
  }
  const invoices = await almanac.db.rows<InvoiceRow>(
    'select * from invoices where subscription_id = $subscriptionId order by period_from desc, id desc',
    { subscriptionId },
  );
  const attempts = await almanac.db.rows<AttemptRow>(
    `select a.*, coalesce(m.network || ' ending ' || m.last_four, a.means) as card
     from attempts a join invoices i on i.id = a.invoice_id left join payment_methods m on m.id = a.payment_method_id
     where i.subscription_id = $subscriptionId order by a.id`,
    { subscriptionId },
  );
  const dues = await almanac.db.rows<{ id: string; dueOn: string; amount: string; owed: string }>(
    `select d.invoice_id::text as id, d.due_on as "dueOn", d.amount::text as amount, coalesce(o.owed, 0)::text as owed
     from dues d join invoices i on i.id = d.invoice_id
     left join open_dues o on o.invoice_id = d.invoice_id and o.place = d.place
     where i.subscription_id = $subscriptionId order by d.invoice_id, d.place`,
    { subscriptionId },
  );
  return invoices.map((invoice) => ({
    dues: dues.filter(({ id }) => id === invoice.id).map(({ id: _, ...due }) => due),
    id: invoice.id,
    number: `${invoice.prefix}${invoice.number}`,
    fields: invoice.fields,
    kind: invoice.kind,
    periodFrom: invoice.period_from,
    periodTo: invoice.period_to,
    issuedOn: invoice.issued_on,
    dueOn: invoice.due_on,
    total: invoice.total,
    collected: invoice.collected,
    owed: invoice.owed,
    state: invoice.state,
    lines: invoice.lines.map(({ name, quantity, amount, part }) => ({
      ...{ name, quantity, amount },
      settles: part ? saySettled(name, part, invoice.currency) : null,
    })),
    attempts: attempts
      .filter((attempt) => attempt.invoice_id === invoice.id)
      .map((attempt) => ({
        id: attempt.id,
        date: attempt.attempted_on,
        amount: attempt.amount,
        card: attempt.card,
        state: attempt.state,
        says: sayOutcome(attempt.state, attempt.response_code, attempt.expected_on, attempt.waits_for),
        reason: attempt.reason,
      })),
  }));
}
