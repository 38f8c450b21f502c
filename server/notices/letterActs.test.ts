import { afterAll, afterEach, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { Page } from '../http/list.ts';
import { verify } from '../verify/verify.ts';
import { MailRoute } from './mailRoute.ts';
import { Mailing } from './mailing.ts';
import type { LetterAct, LetterEffect, LetterRow, LettersHeld } from './messages.ts';

/* What staff do with letters that are about to go out, or have gone: against the mail stand-in. */
let world: World;
let offering: Offering;
let route: MailRoute;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
  route = new MailRoute(world.almanac);
});
afterAll(async () => {
  route.close();
  await world.end();
});
afterEach(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});

const send = () => new Mailing(world.almanac, route).round();
const listed = async (query: string) =>
  (await offering.done<Page<LetterRow>>('get', `/api/letters?${query}`)).rows;
const act = (ids: readonly string[], what: LetterAct, effect = '') =>
  offering.done<LetterEffect[]>('post', `/api/letters/acts${effect}`, { ids, act: what });
const held = () => offering.done<LettersHeld>('get', '/api/letters/held');
const mailOf = (address: string) => world.mail().filter((text) => text.includes(`To: ${address}`)).length;
/** Letters to customers that were handed over. */
const handedOver = () => world.mail().filter((text) => /^To: (person|moved)/m.test(text)).length;
const stateOf = async (id: string) =>
  (await world.almanac.db.row<{ state: string }>('select state from letters where id = $id', { id }))?.state;

test('a letter is held, let go, or taken back while it waits; what has gone out can be sent again, to the address of now', async () => {
  await world.enrol([{}, {}, {}]);
  await world.turnTo('2027-01-05');
  const waiting = (await listed('state=to+be+sent&kind=receipt')).toReversed();
  const [first, second, third] = waiting as [LetterRow, LetterRow, LetterRow];
  expect(waiting.map(({ state }) => state)).toEqual(['queued', 'queued', 'queued']);
  // Nothing is done by looking at it.
  expect((await act([first.id], 'hold', '/effect'))[0]).toMatchObject({ may: true });
  expect(await stateOf(first.id)).toBe('queued');

  await act([first.id, second.id], 'hold');
  expect(await act([first.id, third.id], 'release')).toMatchObject([
    { id: first.id, may: true },
    { id: third.id, may: false, says: 'It is not held.' },
  ]);
  await act([second.id], 'take back');
  await act([third.id], 'hold');
  await send();
  expect([mailOf(first.to), mailOf(second.to), mailOf(third.to)]).toEqual([2, 1, 1]);
  expect((await listed('state=held')).map(({ id }) => id)).toEqual([third.id]);
  expect((await listed('state=taken+back')).map(({ fate }) => fate)).toEqual([
    expect.stringMatching(/^Taken back by /),
  ]);
  expect(await held()).toEqual({ since: null, waiting: 0, held: 1 });

  // What is on its way is not held any more; what was taken back does not come back; what waits is not sent twice.
  await act([third.id], 'release');
  await world.almanac.db.rows(
    `update letters set claimed_until = now() + interval '1 minute' where id = $id`,
    { id: third.id },
  );
  expect(await act([third.id, second.id, first.id], 'hold')).toMatchObject([
    { says: 'It has gone out already.' },
    { says: 'It was taken back.' },
    { says: 'It is on its way just now.' },
  ]);
  expect(await act([third.id, second.id], 'send again')).toMatchObject([{ may: false }, { may: false }]);
  await world.almanac.db.rows('update letters set claimed_until = null where id = $id', { id: third.id });
  await send();

  await world.almanac.db.rows(`update customers set email = 'moved@post.example' where id = $id`, {
    id: first.customerId,
  });
  expect(await act([first.id], 'send again', '/effect')).toMatchObject([
    { says: `It goes to moved@post.example once more, not to ${first.to}.` },
  ]);
  await act([first.id], 'send again');
  await act([first.id], 'send again');
  await send();
  expect([mailOf('moved@post.example'), mailOf(first.to)]).toEqual([2, 2]);
  const [again] = await listed('kind=receipt&search=Person+0');
  expect(again).toMatchObject({ subject: first.subject, state: 'sent', to: 'moved@post.example' });
  expect(again?.reason).toMatch(/^Sent again by .+: /);
});

test('all letters are held at once: nothing goes out, nobody loses a subscription unwarned, and then everything goes', async () => {
  await world.enrol([{ code: '51' }, {}]);
  const before = handedOver();
  await offering.done('post', '/api/letters/held', { hold: true });
  await offering.done('post', '/api/letters/held', { hold: true });
  expect(await held()).toMatchObject({ since: '2027-01-05' });
  await world.turnTo('2027-01-30');
  await send();
  expect(handedOver()).toBe(before);
  const open = await world.almanac.db.rows<{ state: string }>('select state from recovery_cases');
  expect(open, 'the ladder is long over, and it waits').toEqual([{ state: 'open' }]);
  const need = await world.almanac.db.row<{ says: string }>(
    `select says from needs where kind = 'recovery task' and settled_on is null`,
  );
  expect(need?.says).toContain('letters are held back');
  await offering.done('post', '/api/letters/held', { hold: false });
  await send();
  expect(handedOver()).toBeGreaterThan(before + 4);
  expect(await held()).toEqual({ since: null, waiting: 0, held: 0 });
  await world.turnTo('2027-02-08');
  expect(await world.almanac.db.rows('select state from recovery_cases')).toEqual([{ state: 'given up' }]);
});

test('a letter that asks for what was paid meanwhile is not let go, nor sent again', async () => {
  const [id = ''] = await world.enrol([{ code: '51', firstTries: 1 }]);
  await world.turnTo('2027-02-09');
  const [letter] = await listed('state=to+be+sent&kind=payment+declined');
  await act([letter?.id ?? ''], 'hold');
  await world.turnTo('2027-02-14');
  const closed = await world.almanac.db.row<{ state: string }>(
    'select state from recovery_cases where subscription_id = $id',
    { id },
  );
  expect(closed?.state).toBe('recovered');
  const says = 'What it asks for has been settled since: take it back.';
  expect(await act([letter?.id ?? ''], 'release')).toMatchObject([{ may: false, says }]);
  await act([letter?.id ?? ''], 'take back');
  expect(await stateOf(letter?.id ?? '')).toBe('taken back');
  expect((await offering.ask('post', '/api/letters/acts', { ids: [], act: 'hold' })).status).toBe(422);
});
