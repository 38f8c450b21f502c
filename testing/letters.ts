import type { Almanac } from '../server/almanac.ts';
import type { Bound } from '../server/db/database.ts';
import { STORED, STORED_FROM, writtenOut, type StoredLetter } from '../server/notices/written.ts';

export interface ReadLetter {
  readonly event: string;
  readonly on: string;
  readonly linkId: string | null;
  readonly subject: string;
  readonly html: string;
  readonly plain: string;
}

/** Letters written out as their readers get them, in the order in which they were written. */
export async function lettersWhere(
  almanac: Almanac,
  condition: string,
  bound: Readonly<Record<string, Bound>> = {},
): Promise<ReadLetter[]> {
  const rows = await almanac.db.rows<StoredLetter & { event: string; on: string; link_id: string | null }>(
    `select l.event, l.written_on as "on", l.link_id::text, ${STORED} from ${STORED_FROM} where ${condition} order by l.id`,
    bound,
  );
  return rows.map((row) => ({ event: row.event, on: row.on, linkId: row.link_id, ...writtenOut(row) }));
}
