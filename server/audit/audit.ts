import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { unnested } from '../db/unnested.ts';
import { askerNow, type Asker } from './asker.ts';
import type { AuditRow } from './messages.ts';

/** What was done, to what, and how that was before and after. */
export interface Done {
  /** In the past tense, without who: 'changed the business', 'disconnected a gateway'. */
  readonly did: string;
  /** What it was done to, as people know it: a name, an address, a number. */
  readonly subject?: string;
  readonly before?: unknown;
  readonly after?: unknown;
}

/** Writes an entry of the audit, in the transaction of what was done where there is one. It can never be changed. */
export const recordDone = (almanac: Pick<Almanac, 'db'>, done: Done, within?: Transaction): Promise<void> =>
  recordAll(almanac, [{ done, asker: askerNow() }], within);

/** The same of several things that were done at once, each in the name of whoever asked for it. */
export async function recordAll(
  almanac: Pick<Almanac, 'db'>,
  all: readonly { readonly done: Done; readonly asker: Asker }[],
  within?: Transaction,
): Promise<void> {
  for (const { asker } of all) asker.entries += 1;
  const { table, bound } = unnested(
    {
      ...{
        person_id: 'bigint',
        who: 'text',
        via: 'text',
        address: 'text',
        agent: 'text',
        did: 'text',
        subject: 'text',
      },
      ...{ before: 'jsonb', after: 'jsonb' },
    },
    all.map(({ done, asker }) => ({
      ...{ person_id: asker.personId, who: asker.who, via: asker.via, did: done.did },
      ...{ address: asker.address.slice(0, 100), agent: asker.agent.slice(0, 300) },
      subject: (done.subject ?? '').slice(0, 200),
      before: done.before === undefined ? null : JSON.stringify(withoutSecrets(done.before)),
      after: done.after === undefined ? null : JSON.stringify(withoutSecrets(done.after)),
    })),
  );
  await almanac.db.rows(
    `insert into audit_entries (person_id, who, via, address, agent, did, subject, before, after)
     select person_id, who, via, address, agent, did, subject, before, after from ${table} order by place`,
    bound,
    within,
  );
  for (const { asker } of all) if (asker.onceUnder) await noteDone(almanac, asker.onceUnder, within);
}

/** A request with an `Idempotency-Key` is done from here on, whatever becomes of its answer: noted with what it did. */
async function noteDone(
  almanac: Pick<Almanac, 'db'>,
  { name, key }: { readonly name: string; readonly key: string },
  within?: Transaction,
): Promise<void> {
  await almanac.db.rows(
    'update idempotency_keys set done_at = now() where asker = $name and key = $key and done_at is null',
    { name, key },
    within,
  );
}

const SECRET = /password|secret|token|code$|recovery|api_?key|key_?hash|^key$/i;

/** A message as the audit keeps it: whatever is named like a secret is left out, at any depth. */
export function withoutSecrets(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutSecrets);
  if (typeof value === 'bigint') return value.toString();
  if (value === null || typeof value !== 'object' || value instanceof Date) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, member]) => [
      name,
      SECRET.test(name) && (typeof member === 'string' || Array.isArray(member))
        ? '(left out)'
        : withoutSecrets(member),
    ]),
  );
}

/** One page of the audit, the newest first unless asked otherwise; `state` is the way by which it came. */
export function listAudit(almanac: Almanac, query: ListQuery): Promise<Page<AuditRow>> {
  return readPage<AuditRow>(
    almanac.db,
    {
      select: `
        select id, to_char(at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, who, via, address, agent,
          did, subject, before, after
        from audit_entries
        where (who ilike $pattern or did ilike $pattern or subject ilike $pattern or address ilike $pattern
               or before::text ilike $pattern or after::text ilike $pattern)
          and ($state = '' or via = $state)`,
      bound: { pattern: likePattern(query.search), state: query.state },
      sorts: { at: 'at', who: 'who', did: 'did' },
    },
    query.sort === '' ? { ...query, sort: '-at' } : query,
  );
}
