import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { lettersWhere } from '../../testing/letters.ts';
import { Offering } from '../../testing/offering.ts';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import type { DaySheet } from '../run/messages.ts';
import type { SubscriptionView } from '../subscriptions/messages.ts';
import { CustomerLink } from './CustomerLink.ts';
import { linkToken } from './link.ts';
import type { CustomerMessage } from './messages.ts';
import type { OwnPage } from './ownMessages.ts';

let world: World;
let offering: Offering;

beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

test('a message of a customer is kept, answered where it is read, and stands on her page and the line of time', async () => {
  const { rateId } = await offering.plan({}, { lines: [{ price: { scheme: 'flat', amount: '10.00' } }] });
  const id = await offering.enrolled(rateId);
  await world.turnTo(await offering.later(3));
  const { customerId } = await offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
  const link = await CustomerLink.create({ customerId, subscriptionId: id, expiresOn: '2035-01-01' });
  const own = `/api/own/${linkToken(world.almanac, link.id, 'own')}`;
  const says = 'My hives moved.\n<b>Where</b> do you send the honey?';
  expect((await offering.stranger('post', `${own}/message`, { text: says })).status).toBeLessThan(300);

  const today = await offering.today();
  const sheet = await offering.done<DaySheet>('get', `/api/days/${today}`);
  expect(sheet.needs).toMatchObject([{ kind: 'customer wrote', customerId, settledOn: null }]);
  const copy = await world.almanac.db.row<{ reply_to: string }>(
    `select reply_to from staff_letters where kind = 'customer wrote'`,
  );
  expect(copy?.reply_to, 'an answer by mail goes to the customer').toMatch(/@post\.example$/);

  const reader = asking(offering.app, (await signedIn(world, 'reader')).cookie);
  expect((await reader('post', `/api/customers/${customerId}/messages`, { says: 'No.' })).status).toBe(403);
  await offering.done('post', `/api/customers/${customerId}/messages`, { says: 'To the new place.' });
  const thread = await offering.done<CustomerMessage[]>('get', `/api/customers/${customerId}/messages`);
  expect(thread.map((one) => [one.direction, one.says])).toEqual([
    ['in', says],
    ['out', 'To the new place.'],
  ]);
  expect(thread[1]?.writtenBy).not.toBe('');
  const after = await offering.done<DaySheet>('get', `/api/days/${today}`);
  expect(after.needs, 'it is seen to by the answer').toEqual([]);
  const [letter] = await lettersWhere(world.almanac, `l.event = 'message'`);
  expect(letter?.html).toContain('To the new place.');
  expect(letter?.linkId).not.toBeNull();
  const seen = (await offering.stranger('get', own)).body as OwnPage;
  expect(seen.messages.map((one) => one.says)).toEqual([says, 'To the new place.']);
  expect(seen.messages[1]?.writtenBy, 'no names of staff').toBe('');
  expect(seen.thread.marks.filter(({ says: mark }) => mark.includes('wrote'))).toHaveLength(2);
});

test('a day shows what came up on it and what became of that; a day to come shows nobody’s needs', async () => {
  const first = await offering.today();
  await world.turnTo(await offering.later(2));
  const today = await offering.today();
  const { rateId } = await offering.plan({}, { lines: [{ price: { scheme: 'flat', amount: '10.00' } }] });
  const id = await offering.enrolled(rateId);
  const { customerId } = await offering.done<SubscriptionView>('get', `/api/subscriptions/${id}`);
  const link = await CustomerLink.create({ customerId, subscriptionId: id, expiresOn: '2035-01-01' });
  await offering.stranger('post', `/api/own/${linkToken(world.almanac, link.id, 'own')}/message`, {
    text: 'Hello?',
  });
  const needsOn = async (date: string) =>
    (await offering.done<DaySheet>('get', `/api/days/${date}`)).needs.map(({ settledOn, says }) => [
      says.includes('Hello?'),
      settledOn,
    ]);
  expect(await needsOn(today)).toEqual([[true, null]]);
  expect(await needsOn(await offering.later(1))).toEqual([]);
  expect(await needsOn(first), 'seen to on that day, and shown as it was').toEqual([[false, first]]);
});
