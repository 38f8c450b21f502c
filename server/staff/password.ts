import { hash, verify } from '@node-rs/argon2';
import { RefusedCommand } from '../http/problem.ts';
import { outsideOfLoop } from '../parsing/outsideOfLoop.ts';

/** Guesses, as a power of ten, that a password must withstand to be taken; commonly used ones are far below. */
const LEAST_GUESSES = 8;

/**
 * Hashes a password by Argon2id (RFC 9106), after refusing those that are guessed at once: common ones, keyboard
 * rows, dates, and the person's own names. `known` are such words.
 */
export async function hashPassword(
  password: string,
  known: readonly string[],
  pointer: string,
): Promise<string> {
  const strength = await outsideOfLoop('strengthOf', password, known);
  if (strength.guesses < LEAST_GUESSES) {
    const why = strength.warning || 'This password is guessed too easily.';
    throw new RefusedCommand(
      422,
      `${why.replace(/\.?$/, '.')} Take a few words that do not belong together.`,
      pointer,
    );
  }
  return hash(password);
}

/** A hash of nothing anyone knows: compared with where there is no such person, so that the answer takes as long. */
const NOBODY = hash('a password that nobody has');

/** Whether this is the password; false where there is none. It takes the same time either way. */
export async function isPassword(hashed: string | null, password: string): Promise<boolean> {
  const same = await verify(hashed ?? (await NOBODY), password);
  return hashed !== null && same;
}
