import type { Problem } from '../api/client.ts';

/** What the server refused, and what it was asked. */
export interface Refusal {
  readonly problem: Problem;
  readonly sent: unknown;
}

/**
 * What a message holds at a JSON pointer (RFC 6901), or at the nearest place above it that there is: what is wrong with
 * something that is missing is mended where it would stand.
 */
export function nearestAt(message: unknown, pointer: string): unknown {
  let at = message;
  for (const step of pointer.split('/').slice(1)) {
    const name = step.replaceAll('~1', '/').replaceAll('~0', '~');
    if (at === null || typeof at !== 'object' || !Object.hasOwn(at, name)) return at;
    at = (at as Record<string, unknown>)[name];
  }
  return at;
}

/**
 * The faults of a refusal that still stand: those whose part of the message is as it was when it was refused. What was
 * typed anew since is not blamed for what stood there before.
 */
export function liveFaults(
  refusal: { readonly problem: Pick<Problem, 'faults'>; readonly sent: unknown } | null,
  message: unknown,
): readonly { readonly pointer: string; readonly detail: string }[] {
  if (refusal === null) return [];
  return refusal.problem.faults.filter(
    ({ pointer }) =>
      JSON.stringify(nearestAt(refusal.sent, pointer)) === JSON.stringify(nearestAt(message, pointer)),
  );
}
