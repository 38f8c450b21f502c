import { askAgain } from './again.ts';
import type { Fault } from '../../core/terms/fault.ts';

/** What the server answered instead of what was asked: a problem document of RFC 9457. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    detail: string,
    readonly faults: readonly Fault[],
    /** How a thing stands that somebody else has changed meanwhile (409). */
    readonly theirs?: { readonly value: unknown; readonly version: number; readonly changedBy: string },
  ) {
    super(detail);
    this.name = 'Problem';
  }

  /** What is wrong with the field at a JSON Pointer, or undefined. */
  at(pointer: string): string | undefined {
    return this.faults.find((fault) => fault.pointer === pointer)?.detail;
  }
}

/** What a file that is too large, or was not taken, is said to be. */
interface SaidOfFile {
  readonly tooLarge: string;
  readonly notTaken: string;
}
const OF_PICTURE: SaidOfFile = {
  tooLarge: 'A picture has at most 1 MB.',
  notTaken: 'The picture was not taken.',
};

/** Sends a file as it is. */
export async function upload<T>(path: string, file: Blob, says: SaidOfFile = OF_PICTURE): Promise<T> {
  const response = await fetch(path, {
    method: 'POST',
    headers: { 'X-Almanac': '1', 'Content-Type': file.type || 'application/octet-stream' },
    body: file,
  }).catch(() => null);
  if (response === null) throw new Problem(0, 'The server cannot be reached. Try again.', []);
  if (response.status === 413) throw new Problem(413, says.tooLarge, []);
  const answered = (await response.json().catch(() => null)) as T & { detail?: string };
  if (response.ok) return answered;
  throw new Problem(response.status, answered?.detail ?? says.notTaken, []);
}

async function ask<T>(
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers: {
        'X-Almanac': '1',
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...headers,
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    throw new Problem(0, 'The server cannot be reached. What you typed is still here; try again.', []);
  }
  const answered = (await response.json().catch(() => null)) as T & {
    detail?: string;
    code?: string;
    errors?: Fault[];
    theirs?: Problem['theirs'];
  };
  if (response.ok) return answered;
  if (answered?.code === 'sign in again' && (await askAgain())) return ask(method, path, body, headers);
  throw new Problem(
    response.status,
    answered?.detail ?? 'Something went wrong on our side.',
    answered?.errors ?? [],
    answered?.theirs,
  );
}

/** The posts under way, and those whose answer never came, each with the key that it is done once under. */
const posts = new Map<string, { readonly key: string; answer?: Promise<unknown> }>();

/**
 * Posts a message once: pressed twice it is one request, and sent again after its answer was lost it bears the same
 * `Idempotency-Key`, so that the server does not do it a second time.
 */
export function post<T>(path: string, body: unknown = {}, headers: Record<string, string> = {}): Promise<T> {
  const name = `${path}\n${JSON.stringify(body)}`;
  const begun = posts.get(name) ?? { key: crypto.randomUUID() };
  if (begun.answer) return begun.answer as Promise<T>;
  const answer = ask<T>('POST', path, body, { 'Idempotency-Key': begun.key, ...headers });
  posts.set(name, { ...begun, answer });
  const settle = (isKnown: boolean) => {
    if (isKnown) posts.delete(name);
    else posts.set(name, { key: begun.key });
  };
  answer.then(
    () => settle(true),
    (error: unknown) => settle(error instanceof Problem && error.status > 0 && error.status < 500),
  );
  return answer;
}

export const get = <T>(path: string) => ask<T>('GET', path);
export const put = <T>(path: string, body: unknown) => ask<T>('PUT', path, body);
export const remove = <T>(path: string) => ask<T>('DELETE', path);

/** A path with the parameters that are not empty. */
export function withQuery(
  path: string,
  query: Readonly<Record<string, string | number | undefined>>,
): string {
  const given = Object.entries(query).filter(([, value]) => value !== undefined && value !== '');
  const text = new URLSearchParams(given.map(([name, value]) => [name, String(value)])).toString();
  return text === '' ? path : `${path}?${text}`;
}
