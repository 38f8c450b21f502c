import type { Almanac } from '../almanac.ts';
import { linkToken } from '../customers/link.ts';
import type { ListQuery, Page } from '../http/list.ts';
import { byCustomer, readAll, readLongPage, type LongList } from '../http/longList.ts';
import { RefusedCommand } from '../http/problem.ts';
import { searchByCustomer, searchPatterns } from '../http/search.ts';
import { LINK_PLACE } from './compose.ts';
import { LETTER_STATES, type LetterRow, type LetterState, type LetterView } from './messages.ts';
import { STORED, STORED_FROM, writtenOut, type StoredLetter } from './written.ts';

type LetterQuery = ListQuery & { readonly customerId?: string | undefined };

/** One page of the letterbook, newest first. */
export function listLetters({ db }: Almanac, query: LetterQuery): Promise<Page<LetterRow>> {
  return readLongPage<LetterRow>(db, letterList(query), newestFirst(query));
}

/** All letters that are asked for, some at a time. */
export function allLetters({ db }: Almanac, query: LetterQuery): AsyncIterable<LetterRow[]> {
  return readAll<LetterRow>(db, letterList(query), newestFirst(query));
}

const newestFirst = (query: LetterQuery) => (query.sort === '' ? { ...query, sort: '-written' } : query);

function letterList({ search, state, kind, dated, from, until, customerId }: LetterQuery): LongList {
  return {
    ...{ from: 'letters l', alias: 'l' },
    search: search === '' ? undefined : searchByCustomer('l'),
    where: [
      ...(state === '' ? [] : [byState(state)]),
      ...(kind === '' ? [] : ['l.event = $kind']),
      ...(dated === 'written' && from !== '' ? ['l.written_on >= $from::date'] : []),
      ...(dated === 'written' && until !== '' ? ['l.written_on <= $until::date'] : []),
      ...(customerId === undefined ? [] : ['l.customer_id = $customerId::bigint']),
    ],
    shown: `
        select l.id::text, l.written_on as "writtenOn", l.event, l.reason, l.to_address as "to", l.subject, l.state, l.fate,
          c.name as customer, c.id::text as "customerId", l.subscription_id::text as "subscriptionId"
        from letters l join customers c on c.id = l.customer_id where l.id = any($ids::bigint[])`,
    bound: { patterns: searchPatterns(search), state, kind, from, until, customerId: customerId ?? '' },
    orders: {
      written: { by: ['l.written_on'] },
      customer: byCustomer('letters', 'l'),
    },
  };
}

/** What became of it; whatever else is asked for as a state is an event, as in links to the letterbook from before. */
function byState(state: string): string {
  if (state === 'to be sent') return `l.state in ('queued', 'held')`;
  return state in LETTER_STATES ? 'l.state = $state' : 'l.event = $state';
}

/** A letter as it looks to its reader; its link leads staff to the same page, where nothing can be done. */
export async function readLetter(almanac: Almanac, id: string): Promise<LetterView> {
  interface Row extends StoredLetter {
    readonly id: string;
    readonly link_id: string | null;
    readonly to_address: string;
    readonly sent_at: Date | null;
    readonly fate: string;
    readonly state: LetterState;
    readonly customer: string;
    readonly customerId: string;
    readonly event: string;
    readonly reason: string;
    readonly writtenOn: string;
    readonly names: string[];
  }
  const letter = await almanac.db.row<Row>(
    `select l.id::text, l.link_id, l.to_address, l.sent_at, l.fate, l.state, l.event, l.reason, l.written_on as "writtenOn",
       l.customer_id::text as "customerId", (select name from customers where id = l.customer_id) as customer, ${STORED},
       array(select f.name from customer_files f where f.id = any(l.files) order by f.id)
         || array(select 'Invoice ' || i.prefix || i.number || '.pdf' from invoices i where i.id = l.invoice_id)
         || array(select 'Credit note ' || n.prefix || n.number || '.pdf' from credit_notes n where n.id = l.credit_note_id) as names from ${STORED_FROM} where l.id = $id`,
    { id },
  );
  if (!letter) throw new RefusedCommand(404, 'There is no such letter.');
  const link =
    letter.link_id === null
      ? ''
      : `${almanac.config.ALMANAC_URL}/own/${linkToken(almanac, letter.link_id, 'view')}`;
  const { subject, html, plain } = writtenOut(letter);
  const { state, customer, customerId, event, reason, writtenOn } = letter;
  return {
    ...{ id: letter.id, state, customer, customerId, event, reason, writtenOn },
    html: html.replaceAll(LINK_PLACE, link).replace('<head>', '<head><base target="_blank">'),
    plain: plain.replaceAll(LINK_PLACE, link),
    subject,
    to: letter.to_address,
    files: letter.names,
    sentAt: letter.sent_at?.toISOString() ?? null,
    fate: letter.fate,
  };
}
