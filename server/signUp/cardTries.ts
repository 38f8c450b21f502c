import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { DeclinedCard } from '../customers/findMethod.ts';
import { RefusedCommand } from '../http/problem.ts';
import { tellStaff } from '../staff/notices.ts';

/**
 * Slows whoever tries cards on a page one after the other. Tries that were declined are counted in the database for each
 * address on each page: after a few, every further one waits, longer and longer, and staff are told once a day from where.
 * Where a page sees very many from everywhere, all addresses have fewer tries free.
 */
const FREE_TRIES = 4;
const FIRST_WAIT_S = 20;
const LONGEST_WAIT_S = 900;
/** Declined tries of a page in an hour, from everywhere, beyond which each address has one try free. */
const MANY_ON_A_PAGE = 60;
const LOOKED_BACK = '1 hour';
const KEPT = '30 days';

/** Who tries a card, and where. */
export interface CardTry {
  readonly page: { readonly id: string; readonly title: string };
  /** Of IPv6, the network. */
  readonly address: string;
}

/**
 * Asks about a card in a counted try: it counts as declined until it is known not to be, so that tries side by side are
 * counted too.
 * @throws RefusedCommand 429 where it comes too soon after others that were declined; nothing was asked then
 */
export async function tryCard<T>(almanac: Almanac, of: CardTry, ask: () => Promise<T>): Promise<T> {
  const id = await begin(almanac, of);
  try {
    const answered = await ask();
    await almanac.db.rows('delete from card_tries where id = $id', { id });
    return answered;
  } catch (error) {
    // What says nothing of the card is none of its tries.
    if (!(error instanceof DeclinedCard))
      await almanac.db.rows('delete from card_tries where id = $id', { id });
    throw error;
  }
}

/** A charge that came right after was declined: it counts as a try. */
export async function noteDeclined({ db }: Almanac, { page, address }: CardTry): Promise<void> {
  await db.rows('insert into card_tries (page_id, address) values ($pageId, $address)', {
    ...{ pageId: page.id, address },
  });
}

async function begin(almanac: Almanac, of: CardTry): Promise<string> {
  const { page, address } = of;
  const bound = { pageId: page.id, address };
  const begun = await almanac.db.transaction(async (within) => {
    await almanac.db.rows(
      'select pg_advisory_xact_lock(hashtextextended($key, 11))',
      { key: `${page.id} ${address}` },
      within,
    );
    const tried = await almanac.db.row<{ here: number; everywhere: number; ago: number | null }>(
      `select count(*) filter (where address = $address)::int as here, count(*)::int as everywhere,
         extract(epoch from clock_timestamp() - max(at) filter (where address = $address))::float as ago
       from card_tries where page_id = $pageId and at > now() - interval '${LOOKED_BACK}'`,
      bound,
      within,
    );
    const { here = 0, everywhere = 0, ago = null } = tried ?? {};
    const free = everywhere >= MANY_ON_A_PAGE ? 1 : FREE_TRIES;
    const wait = here < free ? 0 : Math.min(LONGEST_WAIT_S, FIRST_WAIT_S * 2 ** (here - free));
    const left = Math.ceil(wait - (ago ?? wait));
    if (left > 0) return { id: null, left, here };
    const noted = await almanac.db.row<{ id: string }>(
      'insert into card_tries (page_id, address) values ($pageId, $address) returning id::text',
      bound,
      within,
    );
    return { id: noted?.id ?? '', left: 0, here };
  });
  if (begun.id !== null) return begun.id;
  await tellOf(almanac, of, begun.here);
  const words = begun.left < 90 ? `${begun.left} seconds` : `${Math.ceil(begun.left / 60)} minutes`;
  throw new RefusedCommand(429, `Several cards were declined. Wait ${words}, or write to us.`, '/cardToken');
}

/** Tells staff, once a day, that cards are tried on a page from an address. */
async function tellOf(almanac: Almanac, { page, address }: CardTry, declined: number): Promise<void> {
  await almanac.db.transaction(async (within) => {
    const on = await businessDateOf(almanac, within);
    await tellStaff(
      almanac,
      {
        kind: 'cards tried',
        onceKey: `cards tried:${page.id}:${address}:${on}`,
        subject: `Cards are being tried on the page ${page.title}`,
        says: `On ${sayDate(on)}, ${declined} cards were declined within an hour on the sign-up page ${page.title}, all from the address ${address}. Further tries from there wait longer and longer; nobody else is slowed. Turn the page off if it goes on.`,
        writtenOn: on,
      },
      within,
    );
  });
}

/** Forgets tries of long ago. */
export async function forgetOldTries({ db }: Pick<Almanac, 'db'>): Promise<void> {
  await db.rows(`delete from card_tries where at < now() - interval '${KEPT}'`);
}

/** The addresses from which cards were tried and declined on a page in the last days, the busiest first. */
export function triedOn({ db }: Almanac, pageId: string): Promise<{ address: string; declined: number }[]> {
  return db.rows(
    `select address, count(*)::int as declined from card_tries
     where page_id = $pageId and at > now() - interval '7 days'
     group by address having count(*) >= ${FREE_TRIES} order by 2 desc, 1 limit 5`,
    { pageId },
  );
}
