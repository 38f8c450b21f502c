import { createHash, randomBytes } from 'node:crypto';
import type { Request, RequestHandler, Response } from 'express';
import type { Database } from '../db/database.ts';
import { sendProblem } from './problem.ts';

export const ROLES = ['owner', 'biller', 'reader'] as const;
export type Role = (typeof ROLES)[number];

export interface Person {
  readonly role: Role;
  readonly name: string;
}

const COOKIE = 'almanac_session';
const HOURS = 12;

/** Finds out who asks, from the session in the cookie, and remembers it for the routes. */
export function whoAsks(db: Database): RequestHandler {
  return async (request, response, next) => {
    const token = cookieOf(request);
    if (token !== null) {
      const found = await db.row<{ role: Role; person: string }>(
        'select role, person from sessions where token_hash = $hash and expires_at > now()',
        { hash: hashOf(token) },
      );
      if (found) response.locals.person = { role: found.role, name: found.person } satisfies Person;
    }
    next();
  };
}

/** Who asked, or null for a stranger. */
export function personOf(response: Response): Person | null {
  return (response.locals.person as Person | undefined) ?? null;
}

/** Begins a session: the token goes into a cookie that scripts and other sites cannot use; we keep its hash. */
export async function beginSession(
  db: Database,
  response: Response,
  person: Person,
  secure: boolean,
): Promise<void> {
  const token = randomBytes(32).toString('base64url');
  await db.rows(
    `insert into sessions (token_hash, role, person, expires_at)
     values ($hash, $role, $name, now() + make_interval(hours => $hours))`,
    { hash: hashOf(token), ...person, hours: HOURS },
  );
  response.cookie(COOKIE, token, {
    httpOnly: true,
    sameSite: 'strict',
    secure,
    path: '/',
    maxAge: HOURS * 3_600_000,
  });
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

/** Takes a one-time token: true the first time while it is good, false ever after. */
export async function takeSignInToken(db: Database, token: string): Promise<boolean> {
  const taken = await db.row<{ good: boolean }>(
    'delete from sign_in_links where token_hash = $hash returning expires_at > now() as good',
    { hash: hashOf(token) },
  );
  return taken?.good ?? false;
}

export async function endSession(db: Database, request: Request, response: Response): Promise<void> {
  const token = cookieOf(request);
  if (token !== null) await db.rows('delete from sessions where token_hash = $hash', { hash: hashOf(token) });
  response.clearCookie(COOKIE, { path: '/' });
}

/**
 * Keeps other sites from writing in a signed-in person's name: every write must carry a header that a form or
 * link of another site cannot set, and, where the browser names the origin, ours.
 */
export function refuseForeignWrites(ownOrigin: string): RequestHandler {
  return (request, response, next) => {
    const writes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
    const origin = request.get('Origin');
    const foreign =
      origin !== undefined && origin !== ownOrigin && new URL(origin).host !== request.get('Host');
    if (writes && (request.get('X-Almanac') !== '1' || foreign)) {
      return sendProblem(response, 403, 'This write did not come from our own pages.');
    }
    next();
  };
}

function cookieOf(request: Request): string | null {
  const cookies = request.get('Cookie') ?? '';
  const found = cookies.split(/;\s*/).find((cookie) => cookie.startsWith(`${COOKIE}=`));
  return found?.slice(COOKIE.length + 1) ?? null;
}

function hashOf(token: string): Buffer {
  return createHash('sha256').update(token).digest();
}
