import { fn, col, where } from 'sequelize';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { inTheNameOf, askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { RefusedCommand } from '../http/problem.ts';
import { beginSession, confirmSession, isSignInToken, takeSignInToken } from '../http/session.ts';
import type { againSchema, newOwnerSchema, signInSchema } from './messages.ts';
import { hashPassword, isPassword } from './password.ts';
import { Person } from './Person.ts';
import { requireProof } from './proof.ts';
import { takeCode } from './secondFactor.ts';
import { deviceOf, noteTry, rememberDevice, takeBackTry } from './tries.ts';

/** The person with this address who has not left, or null. */
export function findByEmail(email: string): Promise<Person | null> {
  const same = where(fn('lower', col('email')), email.trim().toLowerCase());
  return Person.findOne({ where: { leftAt: null, email: same as never } });
}

/** What signing in needs of the request around it. */
export interface Door {
  readonly request: Request;
  readonly response: Response;
  readonly secure: boolean;
}

/** What came of a right password: signed in, or a code is wanted still. */
export type SignInOutcome =
  { readonly signedIn: true } | { readonly signedIn: false; readonly wants: 'code' };

/** Signs somebody in by password and, where it is on, a second factor. Wrong tries are slowed (see tries.ts). */
export async function signInByPassword(
  almanac: Almanac,
  given: z.output<typeof signInSchema>,
  door: Door,
): Promise<SignInOutcome> {
  const device = deviceOf(almanac, door.request, given.email, door.secure);
  const tried = await noteTry(almanac, given.email, device);
  const person = await findByEmail(given.email);
  const right = await isPassword(person?.passwordHash ?? null, given.password);
  if (!person || !right) {
    await noteRefused(almanac, given.email, 'a wrong password');
    throw new RefusedCommand(422, 'This address and password do not belong together.', '/password');
  }
  if (person.secondFactorOn && given.code !== '' && !(await takeCode(almanac, person, given.code))) {
    await noteRefused(almanac, given.email, 'a wrong code');
    throw new RefusedCommand(422, 'This code is wrong, or was used already.', '/code');
  }
  const wantsCode = person.secondFactorOn && given.code === '';
  await takeBackTry(almanac, tried, { email: given.email, device, letsIn: !wantsCode });
  if (wantsCode) {
    await asThemselves(person, () =>
      recordDone(almanac, { did: 'gave their password and was asked for a code', subject: person.name }),
    );
    return { signedIn: false, wants: 'code' };
  }
  rememberDevice(almanac, door.response, person.email, door.secure);
  await letIn(almanac, person, door, 'by password');
  return { signedIn: true };
}

/** A sign-in that was refused is on the audit, by the address that was given. */
function noteRefused(almanac: Almanac, email: string, why: string): Promise<void> {
  return recordDone(almanac, { did: 'was refused at the door', subject: email.trim(), after: { why } });
}

/** Proves anew, inside of a session, who sits at it: asked for before something sensitive. */
export async function signInAgain(
  almanac: Almanac,
  me: { readonly id: string; readonly sessionId: string },
  given: z.output<typeof againSchema>,
): Promise<void> {
  await requireProof(almanac, me, given);
  await confirmSession(almanac.db, me.sessionId);
}

/** Begins a session, and puts it on the audit in the person's own name. */
export async function letIn(almanac: Almanac, person: Person, door: Door, how: string): Promise<void> {
  await beginSession(almanac.db, door.request, door.response, person.id, door.secure);
  await asThemselves(person, () =>
    recordDone(almanac, { did: 'signed in', subject: person.name, after: { how } }),
  );
}

/** Does some work in the name of somebody who has just proved who they are. */
export function asThemselves<T>(person: Person, work: () => Promise<T>): Promise<T> {
  const { address, agent } = askerNow();
  askerNow().entries += 1;
  return inTheNameOf({ personId: person.id, who: person.name, via: 'interface', address, agent }, work);
}

/** What a one-time link of the terminal is for: making the owner the first time, signing in after that. */
export async function purposeOfLink(
  almanac: Almanac,
  token: string,
): Promise<{ purpose: 'make the owner' | 'sign in' | 'none' }> {
  if (!(await isSignInToken(almanac.db, token))) return { purpose: 'none' };
  return { purpose: (await anyOwner()) ? 'sign in' : 'make the owner' };
}

function anyOwner(): Promise<Person | null> {
  return Person.findOne({ where: { role: 'owner', leftAt: null }, order: ['id'] });
}

const USED_UP = 'This sign-in link has been used or is too old. Print another: ./almanac sign-in';

/** Signs the owner in by the link that the server's own terminal printed: the way back where a password is lost. */
export async function signInByLink(almanac: Almanac, token: string, door: Door): Promise<void> {
  const owner = await anyOwner();
  if (!owner) throw new RefusedCommand(409, 'There is no owner yet: give a name, an address and a password.');
  if (!(await takeSignInToken(almanac.db, token))) throw new RefusedCommand(410, USED_UP);
  rememberDevice(almanac, door.response, owner.email, door.secure);
  await letIn(almanac, owner, door, 'by a link of the terminal');
}

/** Makes the owner at the first start, by the link of the terminal. */
export async function makeOwner(
  almanac: Almanac,
  given: z.output<typeof newOwnerSchema>,
  door: Door,
): Promise<void> {
  if (await anyOwner()) throw new RefusedCommand(409, 'There is an owner already. Sign in.');
  if (!(await isSignInToken(almanac.db, given.token))) throw new RefusedCommand(410, USED_UP);
  const passwordHash = await hashPassword(given.password, [given.name, given.email], '/password');
  if (!(await takeSignInToken(almanac.db, given.token))) throw new RefusedCommand(410, USED_UP);
  const owner = await Person.create({ name: given.name, email: given.email, role: 'owner', passwordHash });
  await asThemselves(owner, () =>
    recordDone(almanac, { did: 'became the owner', subject: owner.name, after: { email: owner.email } }),
  );
  rememberDevice(almanac, door.response, owner.email, door.secure);
  await letIn(almanac, owner, door, 'at the first start');
}

/** The owner of the demo, made when first needed; it has no password, so that nobody signs in as it elsewhere. */
export async function demoOwner(): Promise<Person> {
  return (
    (await anyOwner()) ??
    (await Person.create({ name: 'Owner of the demo', email: 'owner@fenmarsh-hives.example', role: 'owner' }))
  );
}
