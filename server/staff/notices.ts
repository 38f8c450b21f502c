import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { readOnce } from '../db/readOnce.ts';
import { layOut } from '../notices/layOut.ts';
import { usualDelivery, type Delivery, type NoticeKind } from './messages.ts';
import { Person } from './Person.ts';

/** Something staff may want to be told of. */
export interface StaffNotice {
  readonly kind: NoticeKind;
  /** Names what it tells of: nobody is told of it twice. */
  readonly onceKey: string;
  readonly subject: string;
  readonly says: string;
  /** Whom an answer by mail goes to. */
  readonly replyTo?: string;
  /** The business date it belongs to. */
  readonly writtenOn: string;
}

/** What happens so often that the letter of the day counts it. */
const COUNTED: NoticeKind = 'payment collected';

/** Everybody who works here, read once in a transaction. */
const staffOf = (within: Transaction) =>
  readOnce(within, 'the staff', () => Person.findAll({ where: { leftAt: null }, transaction: within }));

/** Whether anybody wants to be told of something at once, each time it happens. */
export async function anybodyToldAtOnce(kind: NoticeKind, within: Transaction): Promise<boolean> {
  const people = await staffOf(within);
  return people.some((person) => deliveryTo(person, kind) === 'at once');
}

/** How somebody is told of something. */
export function deliveryTo({ notices, role }: Person, kind: NoticeKind): Delivery {
  return notices[kind] ?? usualDelivery(role, kind);
}

/** Tells everybody who wants to know, in the transaction of what it tells of: at once, or in the letter of the day. */
export async function tellStaff(almanac: Almanac, notice: StaffNotice, within: Transaction): Promise<void> {
  const people = await staffOf(within);
  for (const person of people) {
    const delivery = deliveryTo(person, notice.kind);
    // What came in on a day is counted when its letter is written, not noted one by one.
    if (delivery === 'off' || (delivery === 'daily' && notice.kind === COUNTED)) continue;
    const { name } = await theBusiness(within);
    const letter = {
      onceKey: `${notice.onceKey}:${person.id}`,
      personId: person.id,
      toAddress: person.email,
      kind: notice.kind,
      ...(notice.replyTo ? { replyTo: notice.replyTo } : {}),
      subject: notice.subject,
      writtenOn: notice.writtenOn,
      ...layOut(name, notice.subject, [`Dear ${person.name},`, notice.says]),
    };
    if (delivery === 'at once') await queueStaffLetter(almanac, letter, within);
    else await writeStaffLetter(almanac, { ...letter, plain: notice.says }, 'daily', 'gathering', within);
  }
}

export interface StaffLetter {
  readonly onceKey: string;
  readonly personId: string | null;
  readonly toAddress: string;
  readonly kind: string;
  readonly subject: string;
  readonly html: string;
  readonly plain: string;
  readonly writtenOn: string;
  readonly replyTo?: string;
}

async function writeStaffLetter(
  almanac: Almanac,
  letter: StaffLetter,
  delivery: 'at once' | 'daily' | 'digest',
  state: 'gathering' | 'queued',
  within: Transaction,
): Promise<void> {
  await almanac.db.rows(
    `insert into staff_letters (once_key, person_id, to_address, kind, delivery, subject, html, plain, written_on, state, reply_to)
     values ($onceKey, $personId, $toAddress, $kind, $delivery, $subject, $html, $plain, $writtenOn, $state, $replyTo)
     on conflict (once_key) do nothing`,
    { replyTo: '', ...letter, delivery, state },
    within,
  );
}

/** Writes a letter to staff, which waits to be sent. */
export async function queueStaffLetter(
  almanac: Almanac,
  letter: StaffLetter,
  within: Transaction,
): Promise<void> {
  const delivery = letter.kind === 'digest' ? 'digest' : 'at once';
  await writeStaffLetter(almanac, letter, delivery, 'queued', within);
}
