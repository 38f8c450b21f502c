import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { METHOD, methodJoin, sayHindrance, sayMethod, type MethodFacts } from '../customers/chargeable.ts';
import type { ListQuery, Page } from '../http/list.ts';
import { byCustomer, readAll, readLongPage, type LongList } from '../http/longList.ts';
import { searchBySubscription, searchPatterns } from '../http/search.ts';
import { MEANS_BY_HAND, MEANS_NAMES } from '../payments/meansKinds.ts';
import { invoiceNumberSought } from './invoiceNumber.ts';
import type { InvoiceState } from './invoiceParts.ts';
import type { InvoiceRow } from './messages.ts';

interface Row extends Omit<InvoiceRow, 'state' | 'method' | 'hindered'>, MethodFacts {
  readonly invoiceState: InvoiceState;
  readonly subscriptionState: string;
  /** By what the last of it was paid: a card, or a way by hand. */
  readonly paidBy: string | null;
}

/** The columns of an invoice as {@link viewOfInvoice} reads them, for `$today`. */
export const INVOICE = `
  i.id::text, i.prefix || i.number as number, i.state as "invoiceState", i.customer_id::text as "customerId", c.name as customer,
  s.id::text as "subscriptionId", s.state as "subscriptionState", p.name as plan, i.period_from as "periodFrom",
  i.period_to as "periodTo", i.issued_on as "issuedOn", i.due_on as "dueOn", i.currency, i.total::text, i.owed::text, ${METHOD},
  exists (select from attempts a where a.invoice_id = i.id and a.state = 'under way') as "underWay",
  (select case when a.means <> 'gateway' then a.means when m.last_four <> '' then m.network || ' ending ' || m.last_four else m.network end
   from attempts a left join payment_methods m on m.id = a.payment_method_id
   where a.invoice_id = i.id and a.state = 'collected' order by a.id desc limit 1) as "paidBy"`;

export const INVOICE_FROM = `invoices i join customers c on c.id = i.customer_id join subscriptions s on s.id = i.subscription_id
  join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id ${methodJoin('greatest(i.due_on, $today::date)')}`;

/** An invoice as a list shows it. */
export function viewOfInvoice(
  { invoiceState, subscriptionState, paidBy, collects, card, card_until, hindrance, ...row }: Row,
  today: string,
  payable: ReadonlySet<string>,
): InvoiceRow {
  const isOpen = invoiceState === 'issued' || invoiceState === 'part-paid';
  const how = { collects, card, card_until, hindrance };
  return {
    ...row,
    state: isOpen && row.dueOn < today ? 'overdue' : invoiceState,
    method: isOpen ? sayMethod(how) : sayPaidBy(paidBy, invoiceState),
    hindered: isOpen ? hinders({ ...how, subscriptionState, currency: row.currency }, payable) : null,
  };
}

/** By what an invoice was paid of which nothing is open. */
function sayPaidBy(paidBy: string | null, state: InvoiceState): string {
  if (paidBy === null) return state === 'paid' ? 'credit' : '';
  const byHand = MEANS_BY_HAND.find((means) => means === paidBy);
  return byHand ? MEANS_NAMES[byHand] : paidBy;
}

/** Why what is open can neither be charged by itself nor paid by its customer online. */
function hinders(
  how: MethodFacts & { readonly subscriptionState: string; readonly currency: string },
  payable: ReadonlySet<string>,
): string | null {
  const isPaidByHand = how.collects === 'by hand' || how.subscriptionState === 'lapsed';
  if (!isPaidByHand) return sayHindrance(how);
  return payable.has(how.currency)
    ? null
    : `no gateway takes ${how.currency}: take it by hand, or connect one`;
}

/** The currencies that some connected gateway takes. */
export async function payableCurrencies(almanac: Almanac): Promise<ReadonlySet<string>> {
  const accounts = await almanac.gateways.connected();
  return new Set(accounts.flatMap(({ facts }) => facts.abilities?.currencies ?? []));
}

const OF_STATE: Readonly<Record<string, string>> = {
  open: `i.state in ('issued', 'part-paid')`,
  overdue: `i.state in ('issued', 'part-paid') and i.due_on < $today::date`,
  corrected: 'i.id in (select n.invoice_id from credit_notes n where n.invoice_id is not null)',
};

const DATED: Readonly<Record<string, string>> = {
  due: 'i.due_on between $from::date and $until::date',
  issued: 'i.issued_on between $from::date and $until::date',
};

type InvoiceQuery = ListQuery & { readonly customerId?: string | undefined };
const newestFirst = (query: InvoiceQuery) => (query.sort === '' ? { ...query, sort: '-number' } : query);

/** One page of the invoices, the latest first. */
export async function listInvoices(almanac: Almanac, query: InvoiceQuery): Promise<Page<InvoiceRow>> {
  const today = await businessDateOf(almanac);
  const payable = await payableCurrencies(almanac);
  const list = await invoiceList(almanac, query, today);
  const page = await readLongPage<Row>(almanac.db, list, newestFirst(query));
  return { ...page, rows: page.rows.map((row) => viewOfInvoice(row, today, payable)) };
}

/** All invoices that are asked for, some at a time. */
export async function* allInvoices(almanac: Almanac, query: InvoiceQuery): AsyncGenerator<InvoiceRow[]> {
  const today = await businessDateOf(almanac);
  const payable = await payableCurrencies(almanac);
  const list = await invoiceList(almanac, query, today);
  for await (const rows of readAll<Row>(almanac.db, list, newestFirst(query)))
    yield rows.map((row) => viewOfInvoice(row, today, payable));
}

async function invoiceList(almanac: Almanac, query: InvoiceQuery, today: string): Promise<LongList> {
  const { search, state, dated, customerId } = query;
  const number = await invoiceNumberSought(almanac, search);
  return {
    ...{ from: 'invoices i', alias: 'i' },
    search: search === '' || number !== null ? undefined : searchBySubscription('i'),
    where: [
      ...(number === null ? [] : ['i.number = $number']),
      ...(state === '' ? [] : [OF_STATE[state] ?? 'i.state = $state']),
      ...(customerId === undefined ? [] : ['i.customer_id = $customerId::bigint']),
      ...(DATED[dated] === undefined ? [] : [DATED[dated]]),
    ],
    shown: `select ${INVOICE} from ${INVOICE_FROM} where i.id = any($ids::bigint[])`,
    bound: {
      ...{ patterns: searchPatterns(search), state, customerId: customerId ?? '', number: number ?? '0' },
      ...{ from: query.from || '0001-01-01', until: query.until || '9999-12-31', today },
    },
    orders: {
      number: { by: ['i.number'] },
      due: { by: ['i.due_on'] },
      issued: { by: ['i.issued_on'] },
      amount: { by: ['i.total'] },
      owed: { by: ['i.owed'] },
      customer: byCustomer('invoices', 'i'),
    },
  };
}
