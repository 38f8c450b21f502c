import type { Almanac } from '../almanac.ts';
import { linkToken } from '../customers/link.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { RefusedCommand } from '../http/problem.ts';
import { LINK_PLACE } from './compose.ts';
import type { LetterRow, LetterView } from './messages.ts';
import { STORED, STORED_FROM, writtenOut, type StoredLetter } from './written.ts';

/** One page of the letterbook, newest first. */
export function listLetters(
  almanac: Almanac,
  query: ListQuery & { readonly customerId?: string | undefined },
): Promise<Page<LetterRow>> {
  return readPage<LetterRow>(
    almanac.db,
    {
      select: `
        select l.id, l.written_on as "writtenOn", l.event, l.reason, l.to_address as "to", l.subject, l.state, l.fate,
          c.name as customer, c.id::text as "customerId", l.subscription_id::text as "subscriptionId"
        from letters l join customers c on c.id = l.customer_id
        where (c.name ilike $pattern or l.subject ilike $pattern or l.to_address ilike $pattern)
          and ($state = '' or l.event = $state or l.state = $state)
          and ($customerId = '' or l.customer_id::text = $customerId)`,
      bound: { pattern: likePattern(query.search), state: query.state, customerId: query.customerId ?? '' },
      sorts: { written: '"writtenOn"', customer: 'customer', event: 'event' },
    },
    query.sort === '' ? { ...query, sort: '-written' } : query,
  );
}

/** A letter as it looks to its reader; its link leads staff to the same page, where nothing can be done. */
export async function readLetter(almanac: Almanac, id: string): Promise<LetterView> {
  interface Row extends StoredLetter {
    readonly id: string;
    readonly link_id: string | null;
    readonly to_address: string;
    readonly sent_at: Date | null;
    readonly fate: string;
  }
  const letter = await almanac.db.row<Row>(
    `select l.id::text, l.link_id, l.to_address, l.sent_at, l.fate, ${STORED} from ${STORED_FROM} where l.id = $id`,
    { id },
  );
  if (!letter) throw new RefusedCommand(404, 'There is no such letter.');
  const link =
    letter.link_id === null
      ? ''
      : `${almanac.config.ALMANAC_URL}/own/${linkToken(almanac, letter.link_id, 'view')}`;
  const { subject, html, plain } = writtenOut(letter);
  return {
    id: letter.id,
    html: html.replaceAll(LINK_PLACE, link).replace('<head>', '<head><base target="_blank">'),
    plain: plain.replaceAll(LINK_PLACE, link),
    subject,
    to: letter.to_address,
    sentAt: letter.sent_at?.toISOString() ?? null,
    fate: letter.fate,
  };
}
