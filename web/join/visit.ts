import { post } from '../api/client.ts';

/** The number of this visit: made here, kept nowhere in the browser, and of nobody. */
export const visit = uuid();

function uuid(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  const hex = [...bytes]
    .map((byte, i) =>
      (i === 6 ? (byte & 0x0f) | 0x40 : i === 8 ? (byte & 0x3f) | 0x80 : byte).toString(16).padStart(2, '0'),
    )
    .join('');
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
}

let reached = -1;

/** Says how far this visit has come: 0 seen, 1 choosing, 2 their details, 3 paying. */
export function reach(key: string, step: 0 | 1 | 2 | 3): void {
  if (step <= reached) return;
  reached = step;
  // It only counts: whoever cannot be counted is served all the same.
  post(`/api/join/${encodeURIComponent(key)}/visit`, { visit, step }).catch(() => undefined);
}
