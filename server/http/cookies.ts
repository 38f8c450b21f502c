import type { Request } from 'express';

/** The value of a cookie, or null. */
export function cookieOf(request: Request, name: string): string | null {
  const cookies = request.get('Cookie') ?? '';
  const found = cookies.split(/;\s*/).find((cookie) => cookie.startsWith(`${name}=`));
  return found ? decodeURIComponent(found.slice(name.length + 1)) : null;
}
