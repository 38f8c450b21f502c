import { createHash, randomBytes } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { layOut } from '../notices/layOut.ts';
import {
  NOTICE_KINDS,
  usualDelivery,
  type acceptSchema,
  type Delivery,
  type InvitationView,
  type invitationSchema,
  type Me,
  type newPasswordSchema,
  type NoticeKind,
  type noticesSchema,
  type personSchema,
  type PersonView,
  type SessionView,
} from './messages.ts';
import { queueStaffLetter } from './notices.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { hashPassword, isPassword } from './password.ts';
import { tellOfSafety } from './tellOfSafety.ts';
import { countedTry } from './tries.ts';
import { Person } from './Person.ts';
import { asThemselves, findByEmail, letIn, type Door } from './signIn.ts';

/** An invitation is good for so many days. */
const INVITATION_DAYS = 7;

interface PersonRow extends Omit<PersonView, 'seenAt'> {
  readonly seenAt: Date | null;
}

/** Everybody who may sign in, by name. */
export async function listPeople(almanac: Almanac): Promise<PersonView[]> {
  const rows = await almanac.db.rows<PersonRow>(
    `select id::text, name, email, role, second_factor_on as "secondFactor", password_hash is not null as "hasPassword",
       version, (select max(seen_at) from sessions s where s.person_id = p.id) as "seenAt"
     from people p where left_at is null order by name, id`,
  );
  return rows.map((row) => ({ ...row, seenAt: row.seenAt?.toISOString() ?? null }));
}

/** What somebody sees of themselves. */
export async function readMe(almanac: Almanac, personId: string, sessionId: string): Promise<Me> {
  const person = await Person.findByPk(personId, { rejectOnEmpty: true });
  const view = (await listPeople(almanac)).find(({ id }) => id === personId);
  if (!view) throw new RefusedCommand(404, 'There is no such person.');
  const codes = await almanac.db.row<{ left: number }>(
    'select count(*)::int as left from recovery_codes where person_id = $personId and used_at is null',
    { personId },
  );
  const kinds = Object.keys(NOTICE_KINDS) as NoticeKind[];
  return {
    ...view,
    notices: Object.fromEntries(kinds.map((kind) => [kind, deliveryOf(person, kind)])) as Me['notices'],
    recoveryCodesLeft: codes?.left ?? 0,
    sessions: await listSessions(almanac, sessionId, personId),
  };
}

/** How somebody is told of something: as they chose, or as is usual for their role. */
export function deliveryOf(person: Pick<Person, 'role' | 'notices'>, kind: NoticeKind): Delivery {
  return person.notices[kind] ?? usualDelivery(person.role, kind);
}

/** The sessions that are good now: of one person, or of everybody. */
export async function listSessions(
  almanac: Almanac,
  thisSession: string,
  personId = '',
): Promise<SessionView[]> {
  const rows = await almanac.db.rows<
    Omit<SessionView, 'createdAt' | 'seenAt' | 'isThis'> & { created: Date; seen: Date }
  >(
    `select s.id::text, p.id::text as "personId", p.name as person, s.address, s.agent, s.created_at as created, s.seen_at as seen
     from sessions s join people p on p.id = s.person_id
     where s.expires_at > now() and ($personId = '' or p.id::text = $personId) order by s.seen_at desc`,
    { personId },
  );
  return rows.map(({ created, seen, ...row }) => ({
    ...row,
    createdAt: created.toISOString(),
    seenAt: seen.toISOString(),
    isThis: row.id === thisSession,
  }));
}

/** Ends a session: one's own, or as owner anyone's. */
export async function revokeSession(
  almanac: Almanac,
  id: string,
  by: { readonly id: string; readonly role: string },
): Promise<void> {
  const gone = await almanac.db.row<{ name: string }>(
    `delete from sessions s using people p
     where p.id = s.person_id and s.id = $id and (p.id = $personId or $role = 'owner') returning p.name`,
    { id, personId: by.id, role: by.role },
  );
  if (!gone) throw new RefusedCommand(404, 'There is no such session, or it has ended already.');
  await recordDone(almanac, { did: 'ended a session', subject: gone.name });
}

/** Changes the name or role of somebody. There is always an owner left. */
export async function changePerson(
  almanac: Almanac,
  id: string,
  edit: z.output<typeof personSchema>,
): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const person = await lockedPerson(almanac, id, within);
    const before = { name: person.name, role: person.role };
    if (person.version !== edit.version) {
      throw new ConflictingEdit({ value: before, version: person.version, changedBy: '' });
    }
    if (person.role === 'owner' && edit.value.role !== 'owner') await requireAnotherOwner(person, within);
    await person.update({ ...edit.value, version: person.version + 1 }, { transaction: within });
    await recordDone(
      almanac,
      { did: 'changed a person', subject: person.name, before, after: edit.value },
      within,
    );
  });
}

/** Somebody leaves: their sessions end at once and they cannot sign in any more. */
export async function removePerson(almanac: Almanac, id: string): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const person = await lockedPerson(almanac, id, within);
    if (person.role === 'owner') await requireAnotherOwner(person, within);
    await person.update(
      { leftAt: new Date(), passwordHash: null, secondFactor: null, secondFactorOn: false },
      { transaction: within },
    );
    await almanac.db.rows('delete from sessions where person_id = $id', { id }, within);
    await recordDone(
      almanac,
      { did: 'removed a person', subject: person.name, before: { role: person.role } },
      within,
    );
  });
}

/** Locks everybody who is here, so that two owners cannot remove each other at once, and gives one of them. */
async function lockedPerson(almanac: Almanac, id: string, within: Transaction): Promise<Person> {
  await almanac.db.rows('select id from people where left_at is null order by id for update', {}, within);
  const person = await Person.findOne({ where: { id, leftAt: null }, transaction: within });
  if (!person) throw new RefusedCommand(404, 'There is no such person.');
  return person;
}

async function requireAnotherOwner(person: Person, within: Transaction): Promise<void> {
  const owners = await Person.count({ where: { role: 'owner', leftAt: null }, transaction: within });
  if (owners > 1) return;
  throw new RefusedCommand(
    409,
    `${person.name} is the only owner. Make somebody else an owner first.`,
    '/value/role',
  );
}

const hashOf = (token: string) => createHash('sha256').update(token).digest();

/** Invites somebody by a letter with a one-time link. */
export async function invite(
  almanac: Almanac,
  given: z.output<typeof invitationSchema>,
  today: string,
): Promise<{ id: string }> {
  if (await findByEmail(given.email))
    throw new RefusedCommand(409, 'Somebody with this address is here already.', '/email');
  const token = randomBytes(32).toString('base64url');
  return almanac.db.transaction(async (within) => {
    await almanac.db.rows(
      `update invitations set withdrawn_at = now()
       where lower(email) = lower($email) and accepted_at is null and withdrawn_at is null`,
      { email: given.email },
      within,
    );
    const made = await almanac.db.row<{ id: string }>(
      `insert into invitations (token_hash, name, email, role, invited_by, expires_at)
       values ($hash, $name, $email, $role, $by, now() + make_interval(days => $days)) returning id::text`,
      { hash: hashOf(token), ...given, by: askerNow().who, days: INVITATION_DAYS },
      within,
    );
    const business = await Business.findOne({ transaction: within, rejectOnEmpty: true });
    const subject = `${askerNow().who} invites you to ${business.name}`;
    await queueStaffLetter(
      almanac,
      {
        onceKey: `invitation:${made?.id}`,
        personId: null,
        toAddress: given.email,
        kind: 'invitation',
        writtenOn: today,
        subject,
        ...layOut({
          business: business.name,
          subject,
          paragraphs: [
            `Dear ${given.name},`,
            `${askerNow().who} invites you to work on ${business.name} in Keen Almanac, as ${given.role}.`,
            `The link below is good for ${INVITATION_DAYS} days and can be used once. There you choose a password of your own.`,
          ],
          link: { says: 'Choose a password', url: `${almanac.config.ALMANAC_URL}/invited/${token}` },
        }),
      },
      within,
    );
    await recordDone(almanac, { did: 'invited a person', subject: given.name, after: given }, within);
    return { id: made?.id ?? '' };
  });
}

/** Invitations that can still be accepted. */
export async function listInvitations(almanac: Almanac): Promise<InvitationView[]> {
  const rows = await almanac.db.rows<Omit<InvitationView, 'expiresAt'> & { expires: Date }>(
    `select id::text, name, email, role, invited_by as "invitedBy", expires_at as expires from invitations
     where accepted_at is null and withdrawn_at is null and expires_at > now() order by id desc`,
  );
  return rows.map(({ expires, ...row }) => ({ ...row, expiresAt: expires.toISOString() }));
}

export async function withdrawInvitation(almanac: Almanac, id: string): Promise<void> {
  const gone = await almanac.db.row<{ name: string }>(
    `update invitations set withdrawn_at = now()
     where id = $id and accepted_at is null and withdrawn_at is null returning name`,
    { id },
  );
  if (!gone) throw new RefusedCommand(404, 'There is no such invitation, or it was accepted.');
  await recordDone(almanac, { did: 'withdrew an invitation', subject: gone.name });
}

const OPEN = 'token_hash = $hash and accepted_at is null and withdrawn_at is null and expires_at > now()';

/** What an invitation's link shows before it is used. */
export async function readInvitation(
  almanac: Almanac,
  token: string,
): Promise<{ name: string; email: string; role: string; business: string }> {
  const found = await almanac.db.row<{ name: string; email: string; role: string }>(
    `select name, email, role from invitations where ${OPEN}`,
    { hash: hashOf(token) },
  );
  if (!found)
    throw new RefusedCommand(410, 'This invitation was used, withdrawn or is too old. Ask for another.');
  const business = await Business.findOne({ rejectOnEmpty: true });
  return { ...found, business: business.name };
}

/** Accepts an invitation: the person is made and signed in. The link works once. */
export async function acceptInvitation(
  almanac: Almanac,
  given: z.output<typeof acceptSchema>,
  door: Door,
): Promise<void> {
  const invited = await readInvitation(almanac, given.token);
  const passwordHash = await hashPassword(given.password, [given.name, invited.email], '/password');
  const person = await almanac.db.transaction(async (within) => {
    const taken = await almanac.db.row<{ email: string; role: Person['role'] }>(
      `update invitations set accepted_at = now() where ${OPEN} returning email, role`,
      { hash: hashOf(given.token) },
      within,
    );
    if (!taken)
      throw new RefusedCommand(410, 'This invitation was used, withdrawn or is too old. Ask for another.');
    return Person.create({ name: given.name, ...taken, passwordHash }, { transaction: within });
  });
  await asThemselves(person, () =>
    recordDone(almanac, {
      did: 'accepted an invitation',
      subject: person.name,
      after: { role: person.role },
    }),
  );
  await letIn(almanac, person, door, 'by invitation');
}

/** Changes one's own password; every other session of that person ends, and they are told by mail. */
export async function changePassword(
  almanac: Almanac,
  me: { readonly id: string; readonly sessionId: string },
  given: z.output<typeof newPasswordSchema>,
): Promise<void> {
  const person = await Person.findByPk(me.id, { rejectOnEmpty: true });
  const { passwordHash: before, email } = person;
  if (before !== null)
    await countedTry(almanac, { email, sessionId: me.sessionId }, async () => {
      if (!(await isPassword(before, given.current)))
        throw new RefusedCommand(422, 'This is not your password now.', '/current');
    });
  const passwordHash = await hashPassword(given.next, [person.name, person.email], '/next');
  const today = await businessDateOf(almanac);
  await almanac.db.transaction(async (within) => {
    await person.update({ passwordHash }, { transaction: within });
    await almanac.db.rows(
      'delete from sessions where person_id = $id and id <> $sessionId',
      { ...me },
      within,
    );
    await tellOfSafety(almanac, person, 'Your password was changed', today, within);
    await recordDone(almanac, { did: 'changed their password', subject: person.name }, within);
  });
}

/** Chooses what one is told of, and how. */
export async function changeNotices(
  almanac: Almanac,
  personId: string,
  edit: z.output<typeof noticesSchema>,
): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const person = await lockedPerson(almanac, personId, within);
    if (person.version !== edit.version) {
      throw new ConflictingEdit({ value: person.notices, version: person.version, changedBy: '' });
    }
    const before = person.notices;
    await person.update({ notices: edit.value, version: person.version + 1 }, { transaction: within });
    await recordDone(
      almanac,
      { did: 'changed what they are told of', subject: person.name, before, after: edit.value },
      within,
    );
  });
}

/** Who works here, by name: those whom something can be given to look after. */
export async function staffNames(): Promise<{ readonly id: string; readonly name: string }[]> {
  const people = await Person.findAll({ where: { leftAt: null }, order: ['name', 'id'] });
  return people.filter(({ role }) => role !== 'reader').map(({ id, name }) => ({ id, name }));
}
