import type { Response } from 'express';
import { isGivenUp } from '../threads/poolOf.ts';
import { sendProblem } from './problem.ts';

/** Says when nobody waits for an answer any more, or it has been waited for too long. */
export function whenGivenUp(response: Response, deadlineMs: number): AbortSignal {
  const given = new AbortController();
  const giveUp = () => given.abort();
  if (response.destroyed) giveUp();
  const timer = setTimeout(giveUp, deadlineMs);
  response.once('close', () => {
    clearTimeout(timer);
    if (!response.writableFinished) giveUp();
  });
  return given.signal;
}

/** Reads for an answer until it is there or to be given up; then that is said, where anybody is left to hear it. */
export async function untilGivenUp<T>(
  response: Response,
  signal: AbortSignal,
  read: () => Promise<T>,
): Promise<T | undefined> {
  try {
    return await read();
  } catch (error) {
    if (!signal.aborted && !isGivenUp(error)) throw error;
    const says = 'This took too long and was given up. Nothing is lost; ask for less of it, or again later.';
    if (!response.destroyed) sendProblem(response, 503, says);
    return undefined;
  }
}
