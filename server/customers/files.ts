import { fileTypeFromBuffer } from 'file-type';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Customer } from './Customer.ts';
import {
  FILE_TYPES,
  MOST_OF_ALL_BYTES,
  MOST_OF_CUSTOMER_BYTES,
  MOST_OF_LETTER_BYTES,
  type FileLetters,
  type FileView,
} from './fileMessages.ts';

/** The documents kept with a customer, the newest first. */
export async function listFiles({ db }: Almanac, customerId: string): Promise<FileView[]> {
  const rows = await db.rows<Omit<FileView, 'kind'> & { media_type: string }>(
    `select f.id::text, f.name, f.media_type, f.size, f.added_on as "addedOn", f.added_by as "addedBy",
       f.subscription_id::text as "subscriptionId", p.name as plan, f.goes_with as "goesWith"
     from customer_files f left join subscriptions s on s.id = f.subscription_id
       left join rates r on r.id = s.rate_id left join plans p on p.id = r.plan_id
     where f.customer_id = $customerId order by f.id desc`,
    { customerId },
  );
  return rows.map(({ media_type, ...row }) => ({ ...row, kind: FILE_TYPES[media_type] ?? media_type }));
}

/**
 * Keeps a document with a customer. What it is is told by its bytes, never by its name; it is only ever handed out as a file,
 * to whoever is signed in.
 */
export async function keepFile(
  almanac: Almanac,
  customerId: string,
  given: { readonly name: string; readonly subscriptionId?: string | undefined; readonly bytes: unknown },
): Promise<{ id: string }> {
  const { name, subscriptionId = null } = given;
  const { bytes, type } = await documentOf(given.bytes);
  return almanac.db.transaction(async (within) => {
    if (!(await Customer.findByPk(customerId, { transaction: within })))
      throw new RefusedCommand(404, 'There is no such customer.');
    // Whoever keeps another one at the same time waits, so that both together stay below the limit.
    const customer = await lockedCustomer(customerId, within);
    const own = subscriptionId === null ? true : await isOwn(almanac, customerId, subscriptionId, within);
    if (!own) throw new RefusedCommand(422, 'This is no subscription of the customer.', '/subscriptionId');
    await requireRoom(almanac, { customerId, more: bytes.length, at: '/file' }, within);
    const made = await insertFile(almanac, { customerId, subscriptionId, name, type, bytes }, within);
    await recordDone(
      almanac,
      { did: 'kept a document', subject: customer.name, after: { name, size: bytes.length } },
      within,
    );
    return made;
  });
}

/** A document that was handed over, with its media type as its bytes tell it; or a refusal. */
async function documentOf(bytes: unknown): Promise<{ bytes: Buffer; type: string }> {
  if (!Buffer.isBuffer(bytes) || bytes.length === 0) throw new RefusedCommand(422, 'Choose a file.', '/file');
  const type = await fileTypeFromBuffer(bytes);
  if (!type || FILE_TYPES[type.mime] === undefined)
    throw new RefusedCommand(
      422,
      `This is none of the kinds that are kept: ${Object.values(FILE_TYPES).join(', ')}.`,
      '/file',
    );
  return { bytes, type: type.mime };
}

/** Refuses more documents than there is room for. */
async function requireRoom(
  almanac: Almanac,
  of: { readonly customerId: string | null; readonly more: number; readonly at: string },
  within: Transaction,
): Promise<void> {
  const { customerId, more, at } = of;
  const kept = await almanac.db.row<{ theirs: string; all: string }>(
    `select coalesce(sum(size) filter (where customer_id = $customerId::bigint), 0)::text as theirs,
       coalesce(sum(size), 0)::text as all from customer_files`,
    { customerId },
    within,
  );
  if (Number(kept?.theirs ?? 0) + more > MOST_OF_CUSTOMER_BYTES)
    throw new RefusedCommand(422, 'The documents of one customer have 50 MB together.', at);
  if (Number(kept?.all ?? 0) + more > MOST_OF_ALL_BYTES)
    throw new RefusedCommand(422, 'There is no room for more documents: all together have 2 GB.', at);
}

async function insertFile(
  almanac: Almanac,
  file: {
    readonly customerId: string | null;
    readonly subscriptionId: string | null;
    readonly name: string;
    readonly type: string;
    readonly bytes: Buffer;
  },
  within: Transaction,
): Promise<{ id: string }> {
  const made = await almanac.db.row<{ id: string }>(
    `insert into customer_files (customer_id, subscription_id, name, media_type, bytes, size, added_on, added_by)
     values ($customerId, $subscriptionId, $name, $type, $bytes, $size, $on, $by) returning id::text`,
    { ...file, size: file.bytes.length, on: await businessDateOf(almanac, within), by: askerNow().who },
    within,
  );
  return { id: made?.id ?? '' };
}

/** A document that is sent ahead of an enrolment waits so many days for it, then it is thrown away. */
const WAITS_DAYS = 7;

/** Takes a document ahead of the enrolment that it is for, whose customer may not be written down yet. */
export async function sendAhead(
  almanac: Almanac,
  given: { readonly name: string; readonly bytes: unknown },
): Promise<{ id: string }> {
  const { bytes, type } = await documentOf(given.bytes);
  return almanac.db.transaction(async (within) => {
    await almanac.db.rows(
      `delete from customer_files where customer_id is null and added_at < now() - $days * interval '1 day'`,
      { days: WAITS_DAYS },
      within,
    );
    await requireRoom(almanac, { customerId: null, more: bytes.length, at: '/file' }, within);
    const file = { customerId: null, subscriptionId: null, name: given.name, type, bytes };
    return insertFile(almanac, file, within);
  });
}

/** Puts documents that were sent ahead with the subscription that they are for, by whoever sent them. */
export async function takeAhead(
  almanac: Almanac,
  files: readonly { readonly id: string; readonly goesWith: FileLetters }[],
  of: { readonly customerId: string; readonly subscriptionId: string },
  within: Transaction,
): Promise<void> {
  for (const [i, { id, goesWith }] of files.entries()) {
    const taken = await almanac.db.row<{ size: number }>(
      `update customer_files set customer_id = $customerId, subscription_id = $subscriptionId, goes_with = $goesWith
       where id = $id and customer_id is null and added_by = $by returning size`,
      { ...of, id, goesWith, by: askerNow().who },
      within,
    );
    const at = `/files/${i}`;
    if (!taken)
      throw new RefusedCommand(422, 'This document is not there any more: choose it once more.', at);
    await requireRoom(almanac, { customerId: of.customerId, more: 0, at }, within);
    await requireLight(almanac, { ...of, goesWith, at }, within);
  }
}

/** Says which letters a document of a customer goes with: of one subscription, or else of all that the customer has. */
export function sendWith(
  almanac: Almanac,
  customerId: string,
  id: string,
  goesWith: FileLetters,
): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const customer = await lockedCustomer(customerId, within);
    const changed = await almanac.db.row<{ name: string; subscriptionId: string | null }>(
      `update customer_files set goes_with = $goesWith where id = $id and customer_id = $customerId
       returning name, subscription_id::text as "subscriptionId"`,
      { id, customerId, goesWith },
      within,
    );
    if (!changed) throw new RefusedCommand(404, 'There is no such document.');
    const { name, subscriptionId } = changed;
    await requireLight(almanac, { customerId, subscriptionId, goesWith, at: '/goesWith' }, within);
    await recordDone(
      almanac,
      { did: 'chose what a document goes with', subject: customer.name, after: { name, goesWith } },
      within,
    );
  });
}

/** Refuses what would make a letter so heavy that mail hosts send it back. */
async function requireLight(
  almanac: Almanac,
  of: {
    readonly customerId: string;
    readonly subscriptionId: string | null;
    readonly goesWith: FileLetters;
    readonly at: string;
  },
  within: Transaction,
): Promise<void> {
  const { customerId, subscriptionId, goesWith, at } = of;
  if (goesWith === 'nothing') return;
  const kept = await almanac.db.row<{ size: string }>(
    `select coalesce(sum(size), 0)::text as size from customer_files where customer_id = $customerId and goes_with = $goesWith
       and ($subscriptionId::bigint is null or subscription_id is null or subscription_id = $subscriptionId)`,
    { customerId, subscriptionId, goesWith },
    within,
  );
  if (Number(kept?.size ?? 0) > MOST_OF_LETTER_BYTES)
    throw new RefusedCommand(422, 'What goes with one letter has at most 10 MB together.', at);
}

/** Documents with their bytes, as they go with a letter; those that were thrown away meanwhile are left out. */
export function attachmentsOf(
  { db }: Almanac,
  ids: readonly string[],
): Promise<{ name: string; mediaType: string; bytes: Buffer }[]> {
  return db.rows(
    `select name, media_type as "mediaType", bytes from customer_files where id = any($ids::bigint[]) order by id`,
    { ids },
  );
}

async function isOwn(
  almanac: Almanac,
  customerId: string,
  subscriptionId: string,
  within: Parameters<typeof lockedCustomer>[1],
): Promise<boolean> {
  const found = await almanac.db.row(
    'select 1 from subscriptions where id = $subscriptionId and customer_id = $customerId',
    { subscriptionId, customerId },
    within,
  );
  return found !== null;
}

/** A document of a customer with its bytes, or a refusal. */
export async function readFile(
  { db }: Almanac,
  customerId: string,
  id: string,
): Promise<{ name: string; mediaType: string; bytes: Buffer }> {
  const found = await db.row<{ name: string; mediaType: string; bytes: Buffer }>(
    `select name, media_type as "mediaType", bytes from customer_files where id = $id and customer_id = $customerId`,
    { id, customerId },
  );
  if (!found) throw new RefusedCommand(404, 'There is no such document.');
  return found;
}

/** Throws away a document of a customer. */
export async function removeFile(almanac: Almanac, customerId: string, id: string): Promise<void> {
  const gone = await almanac.db.row<{ name: string }>(
    'delete from customer_files where id = $id and customer_id = $customerId returning name',
    { id, customerId },
  );
  if (!gone) throw new RefusedCommand(404, 'There is no such document.');
  const customer = await Customer.findByPk(customerId, { rejectOnEmpty: true });
  await recordDone(almanac, { did: 'threw away a document', subject: customer.name, before: gone });
}
