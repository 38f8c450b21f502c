import type { Almanac } from '../almanac.ts';
import { linkToken } from '../customers/link.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { RefusedCommand } from '../http/problem.ts';
import { LINK_PLACE } from './compose.ts';
import { Letter } from './Letter.ts';
import type { LetterRow, LetterView } from './messages.ts';

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
  const letter = await Letter.findByPk(id);
  if (!letter) throw new RefusedCommand(404, 'There is no such letter.');
  const link =
    letter.linkId === null
      ? ''
      : `${almanac.config.ALMANAC_URL}/own/${linkToken(almanac, letter.linkId, 'view')}`;
  return {
    id: letter.id,
    html: letter.html.replaceAll(LINK_PLACE, link).replace('<head>', '<head><base target="_blank">'),
    plain: letter.plain.replaceAll(LINK_PLACE, link),
    subject: letter.subject,
    to: letter.toAddress,
    sentAt: letter.sentAt?.toISOString() ?? null,
    fate: letter.fate,
  };
}
