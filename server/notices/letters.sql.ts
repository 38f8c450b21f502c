import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';
import { STORED, STORED_FROM, type StoredLetter } from './written.ts';

/** Letters to customers, or to staff: both wait in their table until they are sent. */
export type Post = 'letters' | 'staff_letters';

/** A letter in the hand of this worker. */
export interface LetterInHand extends StoredLetter {
  readonly id: string;
  readonly to_address: string;
  readonly link_id: string | null;
  readonly reply_to: string;
  readonly customer_id: string | null;
  readonly subscription_id: string | null;
  readonly written_on: string;
  readonly tries: number;
}

/** Staff do not hold all letters to customers back. */
const NOT_ALL_HELD = `not exists (select from business where letters_held_on is not null)`;

/**
 * Takes letters that wait, the oldest first, so that no other worker sends them while this one says that it is at them.
 * @param leaseMs for so long they are taken; see {@link holdLetters}
 */
export async function takeLetters(
  { db }: Almanac,
  post: Post,
  count: number,
  leaseMs: number,
): Promise<LetterInHand[]> {
  const taken = await db.rows<{ id: string }>(
    // By themselves, so that they are looked for once and no more are taken than are asked for.
    `with due as materialized (
       select id from ${post}
       where state = 'queued' and (send_after is null or send_after <= now())
         and (claimed_until is null or claimed_until < now())${post === 'letters' ? ` and ${NOT_ALL_HELD}` : ''}
       order by id limit $count for update skip locked)
     update ${post} l set claimed_until = now() + $leaseMs * interval '1 millisecond'
     from due where l.id = due.id returning l.id::text`,
    { count, leaseMs },
  );
  if (taken.length === 0) return [];
  const ids = taken.map(({ id }) => id);
  return post === 'letters'
    ? db.rows<LetterInHand>(
        `select l.id::text, l.to_address, l.link_id, '' as reply_to, l.customer_id::text, l.subscription_id::text,
           l.written_on, l.tries, ${STORED}
         from ${STORED_FROM} where l.id = any($ids::bigint[]) order by l.id`,
        { ids },
      )
    : db.rows<LetterInHand>(
        `select l.id::text, l.to_address, null as link_id, l.reply_to, null as customer_id, null as subscription_id,
           l.written_on, l.tries, l.subject, l.html, l.plain, null as fields, null as look, null as form, null as files,
           null as invoice_id, null as credit_note_id
         from staff_letters l where l.id = any($ids::bigint[]) order by l.id`,
        { ids },
      );
}

/**
 * Takes a turn at a mail server that takes only so many letters in a second: all workers share its seconds.
 * @param seconds how long the turn lasts
 * @returns in how many milliseconds it begins
 */
export async function turnOf({ db }: Almanac, seconds: number): Promise<number> {
  const turn = await db.row<{ ms: number }>(
    `update mail_pace set free_at = greatest(free_at, now()) + $seconds * interval '1 second'
     returning extract(epoch from free_at - now())::float * 1000 - $seconds * 1000 as ms`,
    { seconds },
  );
  return Math.max(0, Math.ceil(turn?.ms ?? 0));
}

/** Whether there is any letter to send, to whomever. */
export async function anyWaiting({ db }: Almanac): Promise<boolean> {
  const row = await db.row<{ any: boolean }>(
    `select exists (select from letters where state = 'queued' and ${NOT_ALL_HELD})
       or exists (select from staff_letters where state = 'queued') as any`,
  );
  return row?.any ?? false;
}

/** Says that this worker is still at the letters it took. */
export async function holdLetters(
  { db }: Almanac,
  post: Post,
  ids: readonly string[],
  leaseMs: number,
): Promise<void> {
  await db.rows(
    `update ${post} set claimed_until = now() + $leaseMs * interval '1 millisecond'
     where id = any($ids::bigint[]) and state = 'queued'`,
    { ids, leaseMs },
  );
}

/** What became of a letter. */
export interface Fate {
  readonly id: string;
  readonly state: 'sent' | 'undeliverable' | 'queued';
  readonly fate: string;
  /** Of one that waits for another try: for how many more seconds. */
  readonly waitSeconds: number;
  /** Whether it counts as a try of its own. */
  readonly tried: boolean;
}

/** Writes down what became of letters. A staff letter's link is a key: it is not kept once it is on its way. */
export async function writeFates(
  { db }: Almanac,
  post: Post,
  fates: readonly Fate[],
  within: Transaction,
): Promise<void> {
  if (fates.length === 0) return;
  const { table, bound } = unnested(
    { id: 'bigint', state: 'text', fate: 'text', wait: 'int', tried: 'boolean' },
    fates.map(({ id, state, fate, waitSeconds, tried }) => ({
      ...{ id, state, tried },
      fate: fate.slice(0, 300),
      wait: waitSeconds,
    })),
  );
  const forget =
    post === 'letters'
      ? ''
      : `, html = case when x.state <> 'queued' and l.kind = 'invitation' then '' else l.html end,
         plain = case when x.state <> 'queued' and l.kind = 'invitation' then '' else l.plain end`;
  await db.rows(
    `update ${post} l set state = x.state, fate = x.fate, claimed_until = null,
       tries = l.tries + case when x.tried then 1 else 0 end,
       sent_at = case when x.state = 'sent' then now() else l.sent_at end,
       send_after = case when x.state = 'queued' then now() + x.wait * interval '1 second' end${forget}
     from ${table} where l.id = x.id and l.state = 'queued'`,
    bound,
    within,
  );
}
