import type { Almanac } from '../almanac.ts';
import type { ListQuery, Page } from '../http/list.ts';
import { byCustomer, readAll, readLongPage, type LongList } from '../http/longList.ts';
import { searchByCustomer, searchPatterns } from '../http/search.ts';
import type { CreditNoteRow } from './messages.ts';

/** The columns of a credit note as it is shown; of `credit_notes n` and `invoices i`. */
export const CREDIT_NOTE_COLUMNS = `
  n.id::text, n.prefix || n.number as number, n.kind, n.issued_on as "issuedOn", n.currency, n.total::text,
  n.set_off::text as "setOff", n.to_credit::text as "toCredit", n.reason, n.invoice_id::text as "invoiceId",
  i.prefix || i.number as invoice`;

type NoteQuery = ListQuery & { readonly customerId?: string | undefined };
const newestFirst = (query: NoteQuery) => (query.sort === '' ? { ...query, sort: '-number' } : query);

/** One page of the credit notes, the latest first; `state` is what they are for. */
export async function listCreditNotes(almanac: Almanac, query: NoteQuery): Promise<Page<CreditNoteRow>> {
  return readLongPage<CreditNoteRow>(almanac.db, await noteList(almanac, query), newestFirst(query));
}

/** All credit notes that are asked for, some at a time. */
export async function* allCreditNotes(almanac: Almanac, query: NoteQuery): AsyncGenerator<CreditNoteRow[]> {
  yield* readAll<CreditNoteRow>(almanac.db, await noteList(almanac, query), newestFirst(query));
}

async function noteList(almanac: Almanac, query: NoteQuery): Promise<LongList> {
  const { search, state, customerId, dated, from, until } = query;
  const numbered = await notesNumbered(almanac, search);
  return {
    ...{ from: 'credit_notes n', alias: 'n' },
    search: search === '' || numbered.length > 0 ? undefined : searchByCustomer('n'),
    where: [
      ...(numbered.length === 0 ? [] : ['n.id = any($numbered::bigint[])']),
      ...(state === '' ? [] : ['n.kind = $state']),
      ...(customerId === undefined ? [] : ['n.customer_id = $customerId::bigint']),
      ...(dated === '' ? [] : ['n.issued_on between $from::date and $until::date']),
    ],
    shown: `select ${CREDIT_NOTE_COLUMNS}, n.customer_id::text as "customerId", c.name as customer, p.name as plan,
        n.subscription_id::text as "subscriptionId"
      from credit_notes n join customers c on c.id = n.customer_id join subscriptions s on s.id = n.subscription_id
        join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id left join invoices i on i.id = n.invoice_id
      where n.id = any($ids::bigint[])`,
    bound: {
      ...{ patterns: searchPatterns(search), state, customerId: customerId ?? '', numbered },
      ...{ from: from || '0001-01-01', until: until || '9999-12-31' },
    },
    orders: {
      number: { by: ['n.number'] },
      issued: { by: ['n.issued_on'] },
      amount: { by: ['n.total'] },
      customer: byCustomer('credit_notes', 'n'),
    },
  };
}

/** The credit notes of a number, or of the invoice with that number, with its prefix or without; none where it is something else. */
async function notesNumbered({ db }: Almanac, search: string): Promise<string[]> {
  const number = /(\d{1,15})$/.exec(search)?.[1];
  if (number === undefined) return [];
  const rows = await db.rows<{ id: string }>(
    `select id::text from credit_notes where number = $number and lower($search) in (number::text, lower(prefix || number))
     union select n.id::text from credit_notes n join invoices i on i.id = n.invoice_id
     where i.number = $number and lower($search) in (i.number::text, lower(i.prefix || i.number))`,
    { number, search },
  );
  return rows.map(({ id }) => id);
}
