import { createHash, randomBytes } from 'node:crypto';
import type { Request } from 'express';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { KeyView, newKeySchema, Scope } from './messages.ts';

export type { Scope } from './messages.ts';

/** A program that asks, known by its key. */
export interface Program {
  readonly id: string;
  readonly name: string;
  readonly scopes: readonly Scope[];
}

const MARK = 'almanac_key_';
const hashOf = (key: string) => createHash('sha256').update(key).digest();

/** Makes a key: it is given here once, and kept as a hash. */
export async function makeKey(
  almanac: Almanac,
  wanted: z.output<typeof newKeySchema>,
): Promise<{ id: string; key: string }> {
  const today = await businessDateOf(almanac);
  if (wanted.expiresOn !== null && wanted.expiresOn <= today)
    throw new RefusedCommand(422, `Give a day after ${today}.`, '/expiresOn');
  const key = `${MARK}${randomBytes(32).toString('base64url')}`;
  const made = await almanac.db.row<{ id: string }>(
    `insert into api_keys (name, key_hash, starts_with, scopes, made_by, expires_on)
     values ($name, $hash, $start, $scopes, $by, $expiresOn) returning id::text`,
    {
      name: wanted.name,
      hash: hashOf(key),
      start: key.slice(0, MARK.length + 6),
      scopes: wanted.scopes,
      by: askerNow().who,
      expiresOn: wanted.expiresOn,
    },
  );
  await recordDone(almanac, {
    did: 'made an API key',
    subject: wanted.name,
    after: { scopes: wanted.scopes, expiresOn: wanted.expiresOn },
  });
  return { id: made?.id ?? '', key };
}

/** Every key, those in use first. */
export async function listKeys(almanac: Almanac): Promise<KeyView[]> {
  const rows = await almanac.db.rows<
    Omit<KeyView, 'madeAt' | 'usedAt' | 'revokedAt'> & { made: Date; used: Date | null; revoked: Date | null }
  >(
    `select id::text, name, starts_with as "startsWith", scopes, made_by as "madeBy", made_at as made,
       expires_on as "expiresOn", used_at as used, revoked_at as revoked
     from api_keys order by revoked_at nulls first, id desc`,
  );
  return rows.map(({ made, used, revoked, ...row }) => ({
    ...row,
    madeAt: made.toISOString(),
    usedAt: used?.toISOString() ?? null,
    revokedAt: revoked?.toISOString() ?? null,
  }));
}

/** Revokes a key: the next request with it is refused. */
export async function revokeKey(almanac: Almanac, id: string): Promise<void> {
  const revoked = await almanac.db.row<{ name: string }>(
    'update api_keys set revoked_at = now() where id = $id and revoked_at is null returning name',
    { id },
  );
  if (!revoked) throw new RefusedCommand(404, 'There is no such key, or it was revoked.');
  await recordDone(almanac, { did: 'revoked an API key', subject: revoked.name });
}

/** The program whose key a request bears, or null. */
export async function programOf(almanac: Almanac, request: Request): Promise<Program | null> {
  const [, key] = /^Bearer (\S{20,200})$/.exec(request.get('Authorization') ?? '') ?? [];
  if (key === undefined) return null;
  const today = await businessDateOf(almanac);
  return almanac.db.row<Program>(
    `update api_keys set used_at = now()
     where key_hash = $hash and revoked_at is null and (expires_on is null or expires_on > $today)
     returning id::text, name, scopes`,
    { hash: hashOf(key), today },
  );
}
