import { createHash, randomBytes } from 'node:crypto';
import type { Request, RequestHandler, Response } from 'express';
import type { Database } from '../db/database.ts';
import type { Role } from '../staff/messages.ts';
import { cookieName, cookieOf, cookieOptions } from './cookies.ts';
import { sendProblem } from './problem.ts';

/** Who is signed in, and by which session. */
export interface SignedIn {
  readonly id: string;
  readonly role: Role;
  readonly name: string;
  readonly sessionId: string;
  /** They have proved who they are a short while ago: what is sensitive may be done without asking again. */
  readonly confirmed: boolean;
  /** Nothing may be done before they turn on a second factor, as Setup demands. */
  readonly wantsFactor: boolean;
}

const COOKIE = 'almanac_session';
const HOURS = 12;
/** Whoever has signed in is not asked again for so long before something sensitive. */
const CONFIRMED_MINUTES = 15;
/** A session that nobody uses ends after so long, where Setup says nothing else. */
export const USUAL_IDLE_MINUTES = 120;

/** Finds out who asks, from the session in the cookie, and remembers it for the routes. */
export function whoAsks(db: Database, secure: boolean): RequestHandler {
  return async (request, response, next) => {
    const token = cookieOf(request, COOKIE, secure);
    if (token !== null) {
      const found = await db.row<SignedIn & { stale: boolean }>(
        `select p.id, p.role, p.name, s.id as "sessionId", s.seen_at < now() - interval '1 minute' as stale,
           p.password_hash is null or s.confirmed_at > now() - interval '${CONFIRMED_MINUTES} minutes' as confirmed,
           p.password_hash is not null and not p.second_factor_on and case t.value ->> 'demandFactor'
             when 'everybody' then true when 'owners' then p.role = 'owner' else false end as "wantsFactor"
         from sessions s join people p on p.id = s.person_id left join settings t on t.section = 'security'
         where s.token_hash = $hash and s.expires_at > now() and p.left_at is null
           and s.seen_at > now() - make_interval(mins => coalesce((t.value ->> 'idleMinutes')::int, $idle))`,
        { hash: hashOf(token), idle: USUAL_IDLE_MINUTES },
      );
      if (found) {
        const { stale, ...person } = found;
        response.locals.person = person satisfies SignedIn;
        if (stale)
          await db.rows('update sessions set seen_at = now() where id = $id', { id: person.sessionId });
      }
    }
    next();
  };
}

/** Who asked, or null for a stranger. */
export function personOf(response: Response): SignedIn | null {
  return (response.locals.person as SignedIn | undefined) ?? null;
}

/** Begins a session: the token goes into a cookie that scripts and other sites cannot use; we keep its hash. */
export async function beginSession(
  db: Database,
  request: Request,
  response: Response,
  personId: string,
  secure: boolean,
): Promise<void> {
  const token = randomBytes(32).toString('base64url');
  await db.rows(
    `insert into sessions (token_hash, person_id, address, agent, expires_at)
     values ($hash, $personId, $address, $agent, now() + make_interval(hours => $hours))`,
    {
      hash: hashOf(token),
      personId,
      address: request.ip ?? '',
      agent: (request.get('User-Agent') ?? '').slice(0, 300),
      hours: HOURS,
    },
  );
  await db.rows('delete from sessions where expires_at < now()');
  response.cookie(cookieName(COOKIE, secure), token, cookieOptions(secure, HOURS * 3_600_000));
}

/** Whoever sits at a session has proved anew who they are. */
export async function confirmSession(db: Database, sessionId: string): Promise<void> {
  await db.rows('update sessions set confirmed_at = now() where id = $sessionId', { sessionId });
}

/** Makes a one-time way in for the owner, to be printed on the server's own terminal; good for an hour. */
export async function makeSignInToken(db: Database): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await db.rows(
    `insert into sign_in_links (token_hash, expires_at) values ($hash, now() + interval '1 hour')`,
    {
      hash: hashOf(token),
    },
  );
  return token;
}

/** Whether a one-time token is good still; it stays unused. */
export async function isSignInToken(db: Database, token: string): Promise<boolean> {
  const found = await db.row('select 1 from sign_in_links where token_hash = $hash and expires_at > now()', {
    hash: hashOf(token),
  });
  return found !== null;
}

/** Takes a one-time token: true the first time while it is good, false ever after. */
export async function takeSignInToken(db: Database, token: string): Promise<boolean> {
  const taken = await db.row<{ good: boolean }>(
    'delete from sign_in_links where token_hash = $hash returning expires_at > now() as good',
    { hash: hashOf(token) },
  );
  return taken?.good ?? false;
}

export async function endSession(
  db: Database,
  request: Request,
  response: Response,
  secure: boolean,
): Promise<void> {
  const token = cookieOf(request, COOKIE, secure);
  if (token !== null) await db.rows('delete from sessions where token_hash = $hash', { hash: hashOf(token) });
  response.clearCookie(cookieName(COOKIE, secure), cookieOptions(secure, 0));
}

/**
 * Keeps other sites from writing in a signed-in person's name: every write must carry a header that a form or
 * link of another site cannot set, and, where the browser names the origin, ours.
 */
export function refuseForeignWrites(ownOrigin: string): RequestHandler {
  return (request, response, next) => {
    const writes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
    const origin = request.get('Origin');
    const foreign = origin !== undefined && origin !== ownOrigin && hostOf(origin) !== request.get('Host');
    if (writes && (request.get('X-Almanac') !== '1' || foreign)) {
      return sendProblem(response, 403, 'This write did not come from our own pages.');
    }
    next();
  };
}

/** The host of an origin; a sandboxed page calls itself `null`, and has none. */
function hostOf(origin: string): string | null {
  return URL.canParse(origin) ? new URL(origin).host : null;
}

function hashOf(token: string): Buffer {
  return createHash('sha256').update(token).digest();
}
