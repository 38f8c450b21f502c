import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type { Request, Response } from 'express';
import type { Almanac } from '../almanac.ts';
import { cookieName, cookieOf, cookieOptions } from '../http/cookies.ts';
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
export function deviceOf(almanac: Almanac, request: Request, email: string, secure: boolean): string {
  const [device = '', signed = ''] = (cookieOf(request, COOKIE, secure) ?? '').split('.');
  const expected = Buffer.from(signature(almanac, device, email));
  const given = Buffer.from(signed);
  const known = device !== '' && expected.length === given.length && timingSafeEqual(expected, given);
  return known ? device : STRANGER;
}

/** Makes this device known to the account: it has just signed in there. */
export function rememberDevice(almanac: Almanac, response: Response, email: string, secure: boolean): void {
  const device = randomBytes(16).toString('base64url');
  const value = `${device}.${signature(almanac, device, email)}`;
  response.cookie(cookieName(COOKIE, secure), value, cookieOptions(secure, 400 * 86_400_000));
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

/**
 * The try was right as far as it went: it does not count. Where that lets somebody in, neither do the wrong ones before
 * it on a device that the account knows; where more is wanted still, such as a code, they go on counting.
 */
export async function takeBackTry(
  almanac: Almanac,
  id: string,
  of: { readonly email: string; readonly device: string; readonly letsIn: boolean },
): Promise<void> {
  await almanac.db.rows(
    `delete from sign_in_tries
     where id = $id or ($letsIn and account_hash = $hash and device = $device and device <> '${STRANGER}')`,
    { id, hash: accountHash(of.email), device: of.device, letsIn: of.letsIn },
  );
}

/**
 * Does something that proves who somebody is, inside of a session: wrong tries are counted and slowed as at the door.
 * @param work throws a refusal where what was given is wrong
 */
export async function countedTry<T>(
  almanac: Almanac,
  of: { readonly email: string; readonly sessionId: string },
  work: () => Promise<T>,
): Promise<T> {
  const device = `session ${of.sessionId}`;
  const tried = await noteTry(almanac, of.email, device);
  const done = await work();
  await takeBackTry(almanac, tried, { email: of.email, device, letsIn: true });
  return done;
}
