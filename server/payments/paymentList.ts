import type { Almanac } from '../almanac.ts';
import type { ListQuery, Page } from '../http/list.ts';
import { byCustomer, readAll, readLongPage, type LongList } from '../http/longList.ts';
import { searchByCustomer, searchPatterns } from '../http/search.ts';
import { invoiceNumberSought } from '../invoices/invoiceNumber.ts';
import { MEANS_NAMES } from './meansKinds.ts';
import type { Means } from './meansKinds.ts';
import type { AttemptRow, ShownPaymentState } from './messages.ts';
import { sayOutcome } from './sayOutcome.ts';
import type { AttemptState } from './states.ts';

interface Row extends Omit<AttemptRow, 'state' | 'says' | 'method'> {
  readonly attemptState: AttemptState;
  readonly sent: boolean;
  readonly code: string | null;
  readonly expectedOn: string | null;
  readonly waitsFor: 'cardholder' | null;
  readonly card: string | null;
}

/** The columns of a payment as {@link viewOfAttempt} reads them; of `attempts a`, `invoices i` and `customers c`. */
export const ATTEMPT = `
  a.id::text, a.state as "attemptState", a.sent_at is not null as sent, a.response_code as code, a.expected_on as "expectedOn",
  a.waits_for as "waitsFor",
  a.attempted_on as "attemptedOn", a.amount::text, i.currency, a.customer_id::text as "customerId", c.name as customer,
  i.id::text as "invoiceId", i.prefix || i.number as invoice, a.means,
  case when m.last_four <> '' then m.network || ' ending ' || m.last_four else m.network end as card,
  coalesce((select sum(f.amount) from refunds f where f.attempt_id = a.id and f.state <> 'failed'), 0)::text as refunded`;

export const ATTEMPT_FROM = `attempts a join invoices i on i.id = a.invoice_id join customers c on c.id = a.customer_id
  left join payment_methods m on m.id = a.payment_method_id`;

/** A payment as it is shown: how it came out, and by what it was made. */
export function viewOfAttempt({
  attemptState,
  sent,
  code,
  expectedOn,
  waitsFor,
  card,
  ...row
}: Row): AttemptRow {
  const state = stateOf({ attemptState, sent, amount: row.amount, refunded: row.refunded });
  return {
    ...row,
    state,
    says:
      state === 'waiting'
        ? 'Waits: its gateway cannot be asked'
        : sayOutcome(attemptState, code, expectedOn, waitsFor),
    method: row.means === 'gateway' ? (card ?? '') : MEANS_NAMES[row.means as Exclude<Means, 'gateway'>],
  };
}

function stateOf(of: {
  readonly attemptState: AttemptState;
  readonly sent: boolean;
  readonly amount: string;
  readonly refunded: string;
}): ShownPaymentState {
  const { attemptState, sent, amount, refunded } = of;
  if (attemptState === 'under way' && !sent) return 'waiting';
  if (attemptState !== 'collected' || refunded === '0') return attemptState;
  return refunded === amount ? 'refunded' : 'part refunded';
}

/** What is asked for by a state, as a condition. */
const OF_STATE: Readonly<Record<string, string>> = {
  waiting: `a.state = 'under way' and a.sent_at is null`,
  'under way': `a.state = 'under way' and a.sent_at is not null`,
  refunded: `a.id in (select f.attempt_id from refunds f where f.state <> 'failed' and f.attempt_id is not null)`,
};

type PaymentQuery = ListQuery & { readonly customerId?: string | undefined };
const newestFirst = (query: PaymentQuery) => (query.sort === '' ? { ...query, sort: '-made' } : query);

/** One page of the payments, the latest first; `kind` is by what they were made. */
export async function listPayments(almanac: Almanac, query: PaymentQuery): Promise<Page<AttemptRow>> {
  const page = await readLongPage<Row>(almanac.db, await paymentList(almanac, query), newestFirst(query));
  return { ...page, rows: page.rows.map(viewOfAttempt) };
}

/** All payments that are asked for, some at a time. */
export async function* allPayments(almanac: Almanac, query: PaymentQuery): AsyncGenerator<AttemptRow[]> {
  for await (const rows of readAll<Row>(almanac.db, await paymentList(almanac, query), newestFirst(query)))
    yield rows.map(viewOfAttempt);
}

async function paymentList(almanac: Almanac, query: PaymentQuery): Promise<LongList> {
  const { search, state, kind, customerId, dated } = query;
  const number = await invoiceNumberSought(almanac, search);
  return {
    ...{ from: 'attempts a', alias: 'a' },
    search: search === '' || number !== null ? undefined : searchByCustomer('a'),
    where: [
      ...(number === null ? [] : ['a.invoice_id = (select id from invoices where number = $number)']),
      ...(state === '' ? [] : [OF_STATE[state] ?? 'a.state = $state']),
      ...(kind === '' ? [] : ['a.means = $kind']),
      ...(customerId === undefined ? [] : ['a.customer_id = $customerId::bigint']),
      ...(dated === '' ? [] : ['a.attempted_on between $from::date and $until::date']),
    ],
    shown: `select ${ATTEMPT} from ${ATTEMPT_FROM} where a.id = any($ids::bigint[])`,
    bound: {
      ...{
        patterns: searchPatterns(search),
        state,
        kind,
        customerId: customerId ?? '',
        number: number ?? '0',
      },
      ...{ from: query.from || '0001-01-01', until: query.until || '9999-12-31' },
    },
    orders: {
      made: { by: ['a.attempted_on'] },
      amount: { by: ['a.amount'] },
      customer: byCustomer('attempts', 'a'),
    },
  };
}
