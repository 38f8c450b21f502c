import { createHmac, timingSafeEqual } from 'node:crypto';
import type { Express } from 'express';
import { isOptionalLetter, type OptionalLetter } from '../../core/letters/events.ts';
import { toDay } from '../../core/dates/day.ts';
import { isPageLanguage } from '../../core/words/signUp/languages.ts';
import type { Almanac } from '../almanac.ts';
import { inTheNameOf } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { pageLookOf } from '../branding/pageLook.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { lockedCustomer } from '../subscriptions/lock.ts';
import type { StoppableLetter } from './wordsMessages.ts';

/** The link at the foot of a letter is good for so many days from it. */
const STOP_DAYS = 400;

/** The token by which letters like this one are stopped: its number, and a signature that nobody can guess. */
export function stopToken(almanac: Pick<Almanac, 'config'>, letterId: string): string {
  return `${letterId}.${signature(almanac, letterId)}`;
}

function signature(almanac: Pick<Almanac, 'config'>, letterId: string): string {
  return createHmac('sha256', almanac.config.ALMANAC_SECRET).update(`stop:${letterId}`).digest('base64url');
}

interface Letter {
  readonly customerId: string;
  readonly event: OptionalLetter;
  readonly language: string;
  readonly to: string;
  readonly stopped: boolean;
}

async function letterOf(almanac: Almanac, token: string): Promise<Letter> {
  const [letterId = '', signed = ''] = token.split('.');
  const given = Buffer.from(signed);
  const expected = Buffer.from(signature(almanac, letterId));
  const isOurs =
    /^\d{1,18}$/.test(letterId) && given.length === expected.length && timingSafeEqual(given, expected);
  const letter = isOurs
    ? await almanac.db.row<Letter & { event: string; writtenOn: string }>(
        `select l.customer_id::text as "customerId", l.event, coalesce(f.language, 'en') as language, l.to_address as "to",
           l.written_on as "writtenOn", l.event = any(c.stopped_letters) as stopped
         from letters l join customers c on c.id = l.customer_id left join letter_forms f on f.id = l.form_id
         where l.id = $letterId and c.erased_on is null`,
        { letterId },
      )
    : null;
  if (!letter || !isOptionalLetter(letter.event))
    throw new RefusedCommand(404, 'This link is not one of ours. Look for the newest letter from us.');
  const today = toDay(await businessDateOf(almanac));
  if (today > toDay(letter.writtenOn) + STOP_DAYS)
    throw new RefusedCommand(410, 'This link has expired. The newest letter from us has another.');
  return letter;
}

/** What the page of such a link shows. */
export async function readStoppable(almanac: Almanac, token: string): Promise<StoppableLetter> {
  const { event, language, to, stopped } = await letterOf(almanac, token);
  const { name: business } = await Business.findOne({ rejectOnEmpty: true });
  return {
    look: await pageLookOf(almanac),
    ...{ business, event, stopped, language: isPageLanguage(language) ? language : 'en' },
    to: to.replace(/^(.)[^@]*/, '$1…'),
  };
}

/** Stops letters of the kind of this one, or lets them come again. Done twice it is as done once. */
export async function stopLetters(almanac: Almanac, token: string, stop: boolean): Promise<StoppableLetter> {
  const { customerId, event } = await letterOf(almanac, token);
  await almanac.db.transaction(async (within) => {
    const { name } = await lockedCustomer(customerId, within);
    await almanac.db.rows(
      `update customers set stopped_letters = array_remove(stopped_letters, $event) || case when $stop then array[$event] else '{}' end
       where id = $customerId`,
      { customerId, event, stop },
      within,
    );
    const did = stop ? 'stopped letters of a kind, by the link in one' : 'lets letters of a kind come again';
    await recordDone(almanac, { did, subject: name, after: { event } }, within);
  });
  return readStoppable(almanac, token);
}

/**
 * Takes the one click of a mail program (RFC 8058). It comes without our header and of no page of ours: the token alone says who
 * may, and nothing else is done by it.
 */
export function takeOneClick(app: Express, almanac: Almanac): void {
  app.post('/stop-letters/:token', async (request, response) => {
    const from = { address: request.ip ?? '', agent: request.get('User-Agent') ?? '' };
    const asker = { personId: null, who: 'a customer, by a letter', via: 'customer', ...from } as const;
    await inTheNameOf(asker, () => stopLetters(almanac, request.params.token ?? '', true));
    response.status(200).type('text/plain').send('Stopped.');
  });
}
