import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { readOnce } from '../db/readOnce.ts';
import { unnested } from '../db/unnested.ts';
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
export const tellStaff = (almanac: Almanac, notice: StaffNotice, within: Transaction): Promise<void> =>
  tellStaffAll(almanac, [notice], within);

/** The same of several things, in one statement. */
export async function tellStaffAll(
  almanac: Almanac,
  notices: readonly StaffNotice[],
  within: Transaction,
): Promise<void> {
  const people = await staffOf(within);
  const letters: Written[] = [];
  for (const notice of notices)
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
        ...layOut({
          business: name,
          subject: notice.subject,
          paragraphs: [`Dear ${person.name},`, notice.says],
        }),
      };
      letters.push(
        delivery === 'at once'
          ? { ...letter, delivery, state: 'queued' }
          : { ...letter, plain: notice.says, delivery: 'daily', state: 'gathering' },
      );
    }
  await writeStaffLetters(almanac, letters, within);
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

/** A letter with how it is delivered, and whether it waits to be sent or is gathered for the letter of the day. */
type Written = StaffLetter & {
  readonly delivery: 'at once' | 'daily' | 'digest';
  readonly state: 'gathering' | 'queued';
};

async function writeStaffLetters(
  almanac: Almanac,
  letters: readonly Written[],
  within: Transaction,
): Promise<void> {
  if (letters.length === 0) return;
  const { table, bound } = unnested(
    {
      ...{
        once_key: 'text',
        person_id: 'bigint',
        to_address: 'text',
        kind: 'text',
        delivery: 'text',
        subject: 'text',
      },
      ...{ html: 'text', plain: 'text', written_on: 'date', state: 'text', reply_to: 'text' },
    },
    letters.map((one) => ({
      ...{ once_key: one.onceKey, person_id: one.personId, to_address: one.toAddress, kind: one.kind },
      ...{ delivery: one.delivery, subject: one.subject, html: one.html, plain: one.plain },
      ...{ written_on: one.writtenOn, state: one.state, reply_to: one.replyTo ?? '' },
    })),
  );
  await almanac.db.rows(
    `insert into staff_letters (once_key, person_id, to_address, kind, delivery, subject, html, plain, written_on, state, reply_to)
     select once_key, person_id, to_address, kind, delivery, subject, html, plain, written_on, state, reply_to from ${table}
     order by place on conflict (once_key) do nothing`,
    bound,
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
  await writeStaffLetters(almanac, [{ ...letter, delivery, state: 'queued' }], within);
}
