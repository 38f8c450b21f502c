import { fileTypeFromBuffer } from 'file-type';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import { Customer } from './Customer.ts';
import { FILE_TYPES, MOST_OF_ALL_BYTES, MOST_OF_CUSTOMER_BYTES, type FileView } from './fileMessages.ts';

/** The documents kept with a customer, the newest first. */
export async function listFiles({ db }: Almanac, customerId: string): Promise<FileView[]> {
  const rows = await db.rows<Omit<FileView, 'kind'> & { media_type: string }>(
    `select f.id::text, f.name, f.media_type, f.size, f.added_on as "addedOn", f.added_by as "addedBy",
       f.subscription_id::text as "subscriptionId", p.name as plan
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
  const { name, subscriptionId = null, bytes } = given;
  if (!Buffer.isBuffer(bytes) || bytes.length === 0) throw new RefusedCommand(422, 'Choose a file.', '/file');
  const type = await fileTypeFromBuffer(bytes);
  if (!type || FILE_TYPES[type.mime] === undefined)
    throw new RefusedCommand(
      422,
      `This is none of the kinds that are kept: ${Object.values(FILE_TYPES).join(', ')}.`,
      '/file',
    );
  return almanac.db.transaction(async (within) => {
    if (!(await Customer.findByPk(customerId, { transaction: within })))
      throw new RefusedCommand(404, 'There is no such customer.');
    // Whoever keeps another one at the same time waits, so that both together stay below the limit.
    const customer = await lockedCustomer(customerId, within);
    const own = subscriptionId === null ? true : await isOwn(almanac, customerId, subscriptionId, within);
    if (!own) throw new RefusedCommand(422, 'This is no subscription of the customer.', '/subscriptionId');
    const kept = await almanac.db.row<{ theirs: string; all: string }>(
      `select coalesce(sum(size) filter (where customer_id = $customerId), 0)::text as theirs,
         coalesce(sum(size), 0)::text as all from customer_files`,
      { customerId },
      within,
    );
    if (Number(kept?.theirs ?? 0) + bytes.length > MOST_OF_CUSTOMER_BYTES)
      throw new RefusedCommand(422, 'The documents of one customer have 50 MB together.', '/file');
    if (Number(kept?.all ?? 0) + bytes.length > MOST_OF_ALL_BYTES)
      throw new RefusedCommand(422, 'There is no room for more documents: all together have 2 GB.', '/file');
    const made = await almanac.db.row<{ id: string }>(
      `insert into customer_files (customer_id, subscription_id, name, media_type, bytes, size, added_on, added_by)
       values ($customerId, $subscriptionId, $name, $type, $bytes, $size, $on, $by) returning id::text`,
      {
        ...{ customerId, subscriptionId, name, type: type.mime, bytes, size: bytes.length },
        ...{ on: await businessDateOf(almanac, within), by: askerNow().who },
      },
      within,
    );
    await recordDone(
      almanac,
      { did: 'kept a document', subject: customer.name, after: { name, size: bytes.length } },
      within,
    );
    return { id: made?.id ?? '' };
  });
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
