import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import type { EnrolmentDraft, EnrolmentDraftRow, WantedDraft } from './draftMessages.ts';

/*
 * Drafts of enrolments and of invoices of something of its own: half-filled forms that anybody who may enrol finds and goes on
 * with. Nothing of a draft is checked or computed before it is taken up, and it is taken up once.
 */

/** So many drafts are kept; more are a list that nobody reads. */
const MOST_DRAFTS = 500;

const COLUMNS = `d.id, d.customer_id::text as "customerId", coalesce(c.name, d.who) as who, d.what,
  d.saved_by as "savedBy", d.saved_on as "savedOn"`;
const FROM = 'enrolment_drafts d left join customers c on c.id = d.customer_id';

/** One page of the drafts, the latest first; of one day those that were begun last. */
export function listDrafts({ db }: Almanac, query: ListQuery): Promise<Page<EnrolmentDraftRow>> {
  return readPage<EnrolmentDraftRow>(
    db,
    {
      select: `select ${COLUMNS} from ${FROM} where coalesce(c.name, d.who) || ' ' || d.what || ' ' || d.saved_by ilike $like`,
      bound: { like: likePattern(query.search) },
      sorts: { saved: '"savedOn"', who: 'lower(who)', what: 'lower(what)' },
    },
    query.sort === '' ? { ...query, sort: '-saved' } : query,
  );
}

export async function readDraft({ db }: Almanac, id: string): Promise<EnrolmentDraft> {
  const draft = await db.row<EnrolmentDraft>(
    `select ${COLUMNS}, d.value, d.version from ${FROM} where d.id = $id`,
    { id },
  );
  if (!draft) throw gone();
  return draft;
}

/** Keeps a draft; gives its id. */
export function saveDraft(almanac: Almanac, wanted: WantedDraft): Promise<{ id: string; version: number }> {
  return almanac.db.transaction(async (within) => {
    const { value, ...of } = wanted;
    await requireCustomer(almanac, of.customerId, within);
    const saved = await almanac.db.row<{ id: string; version: number }>(
      `insert into enrolment_drafts (customer_id, who, what, value, saved_by, saved_on)
       select $customerId::bigint, $who, $what, $value::jsonb, $by, $on
       where (select count(*) from enrolment_drafts) < ${MOST_DRAFTS} returning id::text, version`,
      { ...of, value: JSON.stringify(value), by: askerNow().who, on: await businessDateOf(almanac, within) },
      within,
    );
    if (!saved)
      throw new RefusedCommand(409, `${MOST_DRAFTS} drafts are kept already: throw away some of them first.`);
    await note(almanac, 'saved a draft of an enrolment', of, within);
    return saved;
  });
}

/**
 * Keeps a draft in place of the one that was opened.
 * @throws ConflictingEdit where somebody saved another meanwhile
 */
export function saveDraftAnew(
  almanac: Almanac,
  id: string,
  { version, value, ...of }: WantedDraft & { readonly version: number },
): Promise<{ id: string; version: number }> {
  return almanac.db.transaction(async (within) => {
    await requireCustomer(almanac, of.customerId, within);
    const saved = await almanac.db.row<{ id: string; version: number }>(
      `update enrolment_drafts set customer_id = $customerId::bigint, who = $who, what = $what, value = $value::jsonb,
         saved_by = $by, saved_on = $on, version = version + 1
       where id = $id and version = $version returning id::text, version`,
      {
        ...{ ...of, id, version, value: JSON.stringify(value) },
        ...{ by: askerNow().who, on: await businessDateOf(almanac, within) },
      },
      within,
    );
    if (!saved) {
      const theirs = await readDraft(almanac, id);
      throw new ConflictingEdit({
        ...{ value: theirs.value, version: theirs.version, changedBy: theirs.savedBy },
      });
    }
    await note(almanac, 'saved a draft of an enrolment', of, within);
    return saved;
  });
}

/** Throws a draft away. */
export function throwDraftAway(almanac: Almanac, id: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const thrown = await almanac.db.row<{ who: string; what: string }>(
      'delete from enrolment_drafts where id = $id returning who, what',
      { id },
      within,
    );
    if (!thrown) throw gone();
    await note(almanac, 'threw away a draft of an enrolment', thrown, within);
  });
}

/** A draft is taken up by the enrolment that it became: of two who finish the same, the second is told. */
export async function takeUpDraft({ db }: Almanac, id: string, within: Transaction): Promise<void> {
  const taken = await db.row('delete from enrolment_drafts where id = $id returning id', { id }, within);
  if (!taken)
    throw new RefusedCommand(409, 'Somebody has finished this draft, or thrown it away, meanwhile.');
}

async function requireCustomer({ db }: Almanac, id: string | null, within: Transaction): Promise<void> {
  if (id !== null && !(await db.row('select from customers where id = $id', { id }, within)))
    throw new RefusedCommand(422, 'There is no such customer any more.', '/customerId');
}

function note(
  almanac: Almanac,
  did: string,
  { who, what }: { readonly who: string; readonly what: string },
  within: Transaction,
): Promise<void> {
  return recordDone(almanac, { did, subject: who || 'nobody yet', after: { what } }, within);
}

const gone = () => new RefusedCommand(404, 'There is no such draft any more.');
