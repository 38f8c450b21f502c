import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type { Request, Response } from 'express';
import type { Almanac } from '../almanac.ts';
import { cookieOf } from '../http/cookies.ts';
import { RefusedCommand } from '../http/problem.ts';

/**
 * Slows guessing of passwords without letting a stranger lock anyone out. Wrong tries are counted for an account
 * by device: a device on which that person has signed in before (known by a signed cookie) has a count of its
 * own; all other devices share one. After a few wrong tries each further one has to wait, longer and longer.
 */
const FREE_TRIES = 5;
const FIRST_WAIT_S = 30;
const LONGEST_WAIT_S = 900;
const FORGOTTEN_AFTER = '1 hour';
const COOKIE = 'almanac_device';
const STRANGER = 'a stranger';

/** The device that asks, as far as this account knows it. */
export function deviceOf(almanac: Almanac, request: Request, email: string): string {
  const [device = '', signed = ''] = (cookieOf(request, COOKIE) ?? '').split('.');
  const expected = Buffer.from(signature(almanac, device, email));
  const given = Buffer.from(signed);
  const known = device !== '' && expected.length === given.length && timingSafeEqual(expected, given);
  return known ? device : STRANGER;
}

/** Makes this device known to the account: it has just signed in there. */
export function rememberDevice(almanac: Almanac, response: Response, email: string, secure: boolean): void {
  const device = randomBytes(16).toString('base64url');
  response.cookie(COOKIE, `${device}.${signature(almanac, device, email)}`, {
    httpOnly: true,
    sameSite: 'strict',
    secure,
    path: '/api/session',
    maxAge: 400 * 86_400_000,
  });
}

function signature(almanac: Almanac, device: string, email: string): string {
  return createHmac('sha256', almanac.config.ALMANAC_SECRET)
    .update(`device:${device}:${email.toLowerCase()}`)
    .digest('base64url');
}

const accountHash = (email: string) => createHash('sha256').update(email.trim().toLowerCase()).digest();

/**
 * Refuses a try that comes too soon after wrong ones, and notes this one as wrong until it is known to be right
 * (see {@link takeBackTry}), so that tries side by side are counted too. It says the same whether there is such an
 * account or not.
 */
export function noteTry(almanac: Almanac, email: string, device: string): Promise<string> {
  const bound = { hash: accountHash(email), device };
  return almanac.db.transaction(async (within) => {
    await almanac.db.rows("select pg_advisory_xact_lock(hashtext(encode($hash, 'hex')))", bound, within);
    await almanac.db.rows(
      `delete from sign_in_tries where at < now() - interval '${FORGOTTEN_AFTER}'`,
      {},
      within,
    );
    const tried = await almanac.db.row<{ wrong: number; ago: number }>(
      `select count(*)::int as wrong, extract(epoch from clock_timestamp() - max(at))::float as ago from sign_in_tries
       where account_hash = $hash and device = $device`,
      bound,
      within,
    );
    const wrong = tried?.wrong ?? 0;
    const wait = wrong < FREE_TRIES ? 0 : Math.min(LONGEST_WAIT_S, FIRST_WAIT_S * 2 ** (wrong - FREE_TRIES));
    const left = Math.ceil(wait - (tried?.ago ?? wait));
    if (wait > 0 && left > 0) {
      const words = left < 90 ? `${left} seconds` : `${Math.ceil(left / 60)} minutes`;
      throw new RefusedCommand(
        429,
        `Too many wrong tries. Wait ${words}. A device that you have signed in on before can still be used at once.`,
      );
    }
    const noted = await almanac.db.row<{ id: string }>(
      'insert into sign_in_tries (account_hash, device) values ($hash, $device) returning id',
      bound,
      within,
    );
    return noted?.id ?? '';
  });
}

/** The try was right: it does not count, nor do the wrong ones before it on a device that the account knows. */
export async function takeBackTry(
  almanac: Almanac,
  id: string,
  email: string,
  device: string,
): Promise<void> {
  await almanac.db.rows(
    `delete from sign_in_tries where id = $id or (account_hash = $hash and device = $device and device <> '${STRANGER}')`,
    { id, hash: accountHash(email), device },
  );
}
