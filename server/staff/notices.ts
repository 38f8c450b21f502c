import type { Transaction } from 'sequelize';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { layOut } from '../notices/layOut.ts';
import { addJob } from '../run/queue.ts';
import { usualDelivery, type NoticeKind } from './messages.ts';
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

/** Tells everybody who wants to know, in the transaction of what it tells of: at once, or in the letter of the day. */
export async function tellStaff(almanac: Almanac, notice: StaffNotice, within: Transaction): Promise<void> {
  const people = await Person.findAll({ where: { leftAt: null }, transaction: within });
  for (const person of people) {
    const delivery = person.notices[notice.kind] ?? usualDelivery(person.role, notice.kind);
    if (delivery === 'off') continue;
    const { name } = await Business.findOne({ transaction: within, rejectOnEmpty: true });
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
): Promise<string | null> {
  const written = await almanac.db.row<{ id: string }>(
    `insert into staff_letters (once_key, person_id, to_address, kind, delivery, subject, html, plain, written_on, state, reply_to)
     values ($onceKey, $personId, $toAddress, $kind, $delivery, $subject, $html, $plain, $writtenOn, $state, $replyTo)
     on conflict (once_key) do nothing returning id::text`,
    { replyTo: '', ...letter, delivery, state },
    within,
  );
  return written?.id ?? null;
}

/** Writes a letter to staff and queues its sending. */
export async function queueStaffLetter(
  almanac: Almanac,
  letter: StaffLetter,
  within: Transaction,
): Promise<void> {
  const delivery = letter.kind === 'digest' ? 'digest' : 'at once';
  const id = await writeStaffLetter(almanac, letter, delivery, 'queued', within);
  if (id !== null)
    await addJob(almanac.db, 'send-staff-letter', { letterId: id }, `staff-letter-${id}`, within);
}

interface Gathered {
  readonly id: string;
  readonly kind: string;
  readonly plain: string;
}

/** Makes one letter for each person of all that was gathered for them up to the end of a business day. */
export async function sendDigests(almanac: Almanac, businessDate: string): Promise<void> {
  const people = await almanac.db.rows<{ id: string; name: string; email: string }>(
    `select distinct p.id::text, p.name, p.email from staff_letters l join people p on p.id = l.person_id
     where l.state = 'gathering' and l.written_on <= $businessDate and p.left_at is null order by 1`,
    { businessDate },
  );
  for (const person of people) {
    await almanac.db.transaction(async (within) => {
      const gathered = await almanac.db.rows<Gathered>(
        `update staff_letters set state = 'gathered'
         where person_id = $id and state = 'gathering' and written_on <= $businessDate
         returning id::text, kind, plain`,
        { id: person.id, businessDate },
        within,
      );
      if (gathered.length === 0) return;
      const business = await Business.findOne({ transaction: within, rejectOnEmpty: true });
      const subject = `${business.name}, ${sayDate(businessDate)}: ${gathered.length === 1 ? 'one thing' : `${gathered.length} things`} to know`;
      const kinds = [...new Set(gathered.map(({ kind }) => kind))].sort();
      const paragraphs = kinds.map((kind) => {
        const of = gathered.filter((one) => one.kind === kind);
        const shown = of.slice(0, 20).map(({ plain }) => plain);
        const more =
          of.length > shown.length
            ? [`… and ${of.length - shown.length} more; the day sheet has them all.`]
            : [];
        return [`${kind[0]?.toUpperCase()}${kind.slice(1)} (${of.length})`, ...shown, ...more].join('\n');
      });
      await queueStaffLetter(
        almanac,
        {
          onceKey: `digest:${person.id}:${businessDate}`,
          personId: person.id,
          toAddress: person.email,
          kind: 'digest',
          subject,
          writtenOn: businessDate,
          ...layOut(business.name, subject, [`Dear ${person.name},`, ...paragraphs]),
        },
        within,
      );
    });
  }
}
