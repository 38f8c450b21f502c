import type { Transaction } from 'sequelize';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { LINK_DAYS } from '../customers/link.ts';
import type { LetterAct, LetterEffect, LettersHeld } from './messages.ts';

interface Row {
  readonly id: string;
  readonly state: 'queued' | 'held' | 'sent' | 'undeliverable' | 'taken back';
  readonly subject: string;
  readonly customer: string;
  readonly onItsWay: boolean;
  /** Where it would go to now; empty: nowhere. */
  readonly now: string;
  readonly address: string;
  readonly erased: boolean;
  /** It asks for money of a case that is closed. */
  readonly isOver: boolean;
}

const LETTERS = `
  select l.id::text, l.state, l.subject, c.name as customer, coalesce(l.claimed_until > now(), false) as "onItsWay",
    coalesce(k.email, c.email) as now, l.to_address as address, c.erased_on is not null as erased,
    coalesce(r.state <> 'open' and l.event <> 'lapsed', false) as "isOver"
  from letters l join customers c on c.id = l.customer_id left join contacts k on k.id = l.contact_id
  left join recovery_cases r on r.id = l.case_id
  where l.id = any($ids::bigint[]) order by l.id`;

/** What an act would do to each of some letters, or why it cannot be done. Changes nothing. */
export async function effectOnLetters(
  { db }: Almanac,
  ids: readonly string[],
  act: LetterAct,
): Promise<LetterEffect[]> {
  return (await db.rows<Row>(LETTERS, { ids })).map((row) => effectOf(row, act));
}

function effectOf(row: Row, act: LetterAct): LetterEffect {
  const { id, customer, subject } = row;
  const refused = whyNot(row, act);
  const says = {
    hold: 'It is held until somebody lets it go.',
    release: 'It goes out.',
    'take back': 'It never goes out.',
    'send again': `It goes to ${row.now} once more${row.now === row.address ? '' : `, not to ${row.address}`}.`,
  }[act];
  return { id, customer, subject, may: refused === null, says: refused ?? says };
}

function whyNot({ state, onItsWay, now, erased, isOver }: Row, act: LetterAct): string | null {
  const isGone = state === 'sent' || state === 'undeliverable';
  switch (act) {
    case 'hold':
      if (state === 'queued' && onItsWay) return 'It is on its way just now.';
      if (state === 'held') return 'It is held already.';
      return state === 'queued' ? null : sayState(state);
    case 'release':
      if (state !== 'held') return state === 'queued' ? 'It is not held.' : sayState(state);
      return isOver ? 'What it asks for has been settled since: take it back.' : null;
    case 'take back':
      if (state === 'queued' && onItsWay) return 'It is on its way just now.';
      return state === 'queued' || state === 'held' ? null : sayState(state);
    case 'send again':
      if (erased) return 'The customer was erased.';
      if (!isGone) return state === 'taken back' ? sayState(state) : 'It has not gone out yet.';
      if (now === '') return 'There is no address to send it to.';
      return isOver ? 'What it asks for has been settled since.' : null;
  }
}

const sayState = (state: Row['state']) =>
  state === 'taken back' ? 'It was taken back.' : 'It has gone out already.';

/** Does something with letters; gives what became of each. One that has changed meanwhile is left alone, and said. */
export async function actOnLetters(
  almanac: Almanac,
  ids: readonly string[],
  act: LetterAct,
): Promise<LetterEffect[]> {
  return almanac.db.transaction(async (within) => {
    // The mailer takes no letter that is locked, and waits for none.
    const lock = 'select id from letters where id = any($ids::bigint[]) order by id for update';
    await almanac.db.rows(lock, { ids }, within);
    const effects = (await almanac.db.rows<Row>(LETTERS, { ids }, within)).map((row) => effectOf(row, act));
    const good = effects.filter(({ may }) => may).map(({ id }) => id);
    if (good.length > 0) {
      await DO[act](almanac, good, within);
      const subject =
        good.length === 1 ? (effects.find(({ may }) => may)?.customer ?? '') : `${good.length} letters`;
      await recordDone(almanac, { did: DID[act], subject, after: { letters: good } }, within);
    }
    return effects;
  });
}

const DID: Readonly<Record<LetterAct, string>> = {
  hold: 'held a letter back',
  release: 'let a letter go',
  'take back': 'took a letter back',
  'send again': 'sent a letter again',
};

type Doing = (almanac: Almanac, ids: readonly string[], within: Transaction) => Promise<unknown>;

const DO: Readonly<Record<LetterAct, Doing>> = {
  hold: ({ db }, ids, within) =>
    db.rows(
      `update letters set state = 'held', send_after = null, fate = $fate where id = any($ids::bigint[])`,
      { ids, fate: `Held back by ${askerNow().who}` },
      within,
    ),
  release: ({ db }, ids, within) =>
    db.rows(`update letters set state = 'queued', fate = '' where id = any($ids::bigint[])`, { ids }, within),
  'take back': ({ db }, ids, within) =>
    db.rows(
      `update letters set state = 'taken back', send_after = null, fate = $fate where id = any($ids::bigint[])`,
      { ids, fate: `Taken back by ${askerNow().who}` },
      within,
    ),
  'send again': async (almanac, ids, within) => {
    const today = await businessDateOf(almanac, within);
    // Its link works again for as long as that of a new letter, unless somebody has ended it.
    await almanac.db.rows(
      `update customer_links set expires_on = greatest(expires_on, $until::date)
       where ended_why is null and id in (select link_id from letters where id = any($ids::bigint[]))`,
      { ids, until: formatDay(toDay(today) + LINK_DAYS) },
      within,
    );
    await almanac.db.rows(
      `insert into letters (once_key, customer_id, subscription_id, case_id, link_id, event, reason, to_address, subject, html, plain,
         form_id, look_id, fields, contact_id, files, invoice_id, credit_note_id, written_on, copy_of)
       select 'again:' || l.id || ':' || (select count(*) from letters o where o.copy_of = l.id), l.customer_id, l.subscription_id, l.case_id,
         l.link_id, l.event, 'Sent again by ' || $who || ': ' || l.reason, coalesce(k.email, c.email), l.subject, l.html, l.plain,
         l.form_id, l.look_id, l.fields, l.contact_id, l.files, l.invoice_id, l.credit_note_id, $today::date, l.id
       from letters l join customers c on c.id = l.customer_id left join contacts k on k.id = l.contact_id
       where l.id = any($ids::bigint[]) order by l.id`,
      { ids, today, who: askerNow().who },
      within,
    );
  },
};

/** The day since which all letters to customers are held; null: they go out. */
export async function lettersHeldSince({ db }: Almanac): Promise<string | null> {
  const row = await db.row<{ since: string | null }>('select letters_held_on as since from business');
  return row?.since ?? null;
}

/** Whether all letters to customers are held, since when, and how many wait. */
export async function lettersHeld({ db }: Almanac): Promise<LettersHeld> {
  const row = await db.row<LettersHeld>(
    `select b.letters_held_on as since, (select count(*)::int from letters where state = 'queued') as waiting,
       (select count(*)::int from letters where state = 'held') as held from business b`,
  );
  return row ?? { since: null, waiting: 0, held: 0 };
}

/** Holds all letters to customers back, or lets them go. Letters to staff go out all the same. */
export function holdAll(almanac: Almanac, hold: boolean): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const today = await businessDateOf(almanac, within);
    const changed = await almanac.db.rows(
      `update business set letters_held_on = case when $hold then $today::date end
       where (letters_held_on is not null) <> $hold returning only_row`,
      { hold, today },
      within,
    );
    if (changed.length === 0) return;
    const did = hold ? 'held all letters back' : 'let all letters go';
    await recordDone(almanac, { did, subject: 'letters' }, within);
  });
}
