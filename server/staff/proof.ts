import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { isPassword } from './password.ts';
import { Person } from './Person.ts';
import { takeCode } from './secondFactor.ts';
import { countedTry } from './tries.ts';

interface Proof {
  readonly password: string;
  /** Of the second factor, or a recovery code; asked for where it is on. */
  readonly code: string;
}

/**
 * Requires of whoever sits at a session what they sign in with: the password and, where it is on, the second factor.
 * Wrong tries are counted. Somebody without a password, as in the demo, has nothing to prove.
 */
export async function requireProof(
  almanac: Almanac,
  me: { readonly id: string; readonly sessionId: string },
  given: Proof,
): Promise<Person> {
  const person = await Person.findByPk(me.id, { rejectOnEmpty: true });
  const { passwordHash, email } = person;
  if (passwordHash === null) return person;
  return countedTry(almanac, { email, sessionId: me.sessionId }, async () => {
    if (!(await isPassword(passwordHash, given.password)))
      throw new RefusedCommand(422, 'This is not your password.', '/password');
    if (person.secondFactorOn && given.code === '')
      throw new RefusedCommand(422, 'Give the code of your second factor too.', '/code');
    if (person.secondFactorOn && !(await takeCode(almanac, person, given.code)))
      throw new RefusedCommand(422, 'This code is wrong, or was used already.', '/code');
    return person;
  });
}
