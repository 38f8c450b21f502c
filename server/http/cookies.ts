import { parse } from 'cookie';
import type { CookieOptions, Request } from 'express';

/**
 * The name of a cookie of ours. Where pages are served by https it is bound to this very host (RFC 6265bis, `__Host-`),
 * so that no other place can set it.
 */
export function cookieName(name: string, secure: boolean): string {
  return secure ? `__Host-${name}` : name;
}

/** How every cookie of ours is set: scripts cannot read it, other sites cannot send it. */
export function cookieOptions(secure: boolean, maxAge: number): CookieOptions {
  return { httpOnly: true, sameSite: 'strict', secure, path: '/', maxAge };
}

/** The value of a cookie, or null; one that is not well-formed is read as it stands. */
export function cookieOf(request: Request, name: string, secure: boolean): string | null {
  return parse(request.get('Cookie') ?? '')[cookieName(name, secure)] ?? null;
}
