import { pointerTo } from './fault.ts';

/** The way to a member of a document, from its end: no pointer is written of it until there is something to say. */
export interface Path {
  readonly up: Path | null;
  readonly key: string | number;
}

/** The way to a member of the document itself. */
export function memberOf(key: string): Path {
  return { up: null, key };
}

/** The way on from a member, or from the document itself (null), to one inside of it. */
export function within(up: Path | null, key: string | number, ...further: (string | number)[]): Path {
  let path: Path = { up, key };
  for (const next of further) path = { up: path, key: next };
  return path;
}

/** A way as a JSON Pointer (RFC 6901). */
export function pointerOf(path: Path): string {
  const keys: (string | number)[] = [];
  for (let at: Path | null = path; at !== null; at = at.up) keys.unshift(at.key);
  return pointerTo(keys);
}
