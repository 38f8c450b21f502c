import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import type { Page } from '../http/list.ts';
import type { DaySheet } from '../run/messages.ts';
import type { SubscriptionRow } from '../subscriptions/messages.ts';
import { CANNOT_BE_CHARGED } from '../subscriptions/states.ts';

let world: World;
let offering: Offering;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(() => world.end());

const listed = async (query = '') =>
  (await offering.done<Page<SubscriptionRow>>('get', `/api/subscriptions?${query}`)).rows;
/** What stands beside each subscription, by its number. */
const hindrances = async () => new Map((await listed()).map(({ id, cannotCharge }) => [id, cannotCharge]));
const filtered = async () =>
  (await listed(`kind=${encodeURIComponent(CANNOT_BE_CHARGED)}`)).map(({ id }) => id).toSorted();

test('what cannot be charged says why wherever it is listed, and is found by that', async () => {
  const good = { token: 'card-that-is-good', behaviour: {} };
  await world.moveCards([good]);
  const [stays = '', lost = '', asks = '', ends = '', waits = ''] = await world.enrol([
    {},
    { code: '41' },
    { code: '01' },
    {},
    { code: '51' },
  ]);
  const trial = await offering.plan(
    { name: 'Tried first' },
    {
      lines: [{ name: 'Sample', price: { scheme: 'flat', amount: '5.00' } }],
      trial: { length: 'P1M' },
    },
    { withoutMethod: 'pause', methods: ['card', 'invoice'] },
  );
  const tries = await offering.enrolled(trial.rateId, {}, false);
  const { db } = world.almanac;
  const card = await db.row<{ token: string }>(
    `update payment_methods set expires_year = 2027, expires_month = 1
     where customer_id = (select customer_id from subscriptions where id = $ends) returning gateway_token as token`,
    { ends },
  );
  // Its gateway says the same: it is asked whether the bank has issued it anew.
  const [account] = await world.almanac.gateways.connected();
  if (account)
    await world.almanac.gateways
      .of(account)
      .changeExpiry(card?.token ?? '', { expiresYear: 2027, expiresMonth: 1 });
  // Brought in without a card, and with no word of what a trial does without one.
  const [never = ''] = await world.enrol([{}]);
  await db.rows(
    'delete from mandates where payment_method_id in (select m.id from payment_methods m join subscriptions s on s.customer_id = m.customer_id where s.id = $never)',
    { never },
  );
  await db.rows(
    'delete from payment_methods where customer_id = (select customer_id from subscriptions where id = $never)',
    { never },
  );
  await world.turnTo('2027-01-07');

  const says = await hindrances();
  expect(says.get(stays)).toBeNull();
  expect(says.get(waits), 'a card that may work later can be charged').toBeNull();
  expect(says.get(lost)).toBe('card: never charge it');
  expect(says.get(asks)).toBe('card: ask its holder');
  expect(says.get(ends)).toBe('card ends 31 Jan 2027');
  for (const id of [tries, never]) expect(says.get(id)).toBe('nothing to charge');
  expect(await filtered()).toEqual([lost, asks, ends, tries, never].toSorted());

  const sheet = await offering.done<DaySheet>('get', '/api/days/2027-02-04');
  const planned = new Map(sheet.planned.rows.map((row) => [row.subscriptionId, row.cannotCharge]));
  expect(planned.get(stays)).toBeNull();
  expect(planned.get(ends)).toContain('card ends');

  // Whoever pays by hand needs no card; an account that is away hinders all that it keeps the cards of.
  await db.rows(`update subscriptions set collects = 'by hand' where id = $lost`, { lost });
  await db.rows('update gateway_accounts set disconnected_on = $on', { on: '2027-01-07' });
  const away = await hindrances();
  expect(away.get(lost)).toBeNull();
  expect(away.get(stays)).toBe('account disconnected');
  expect(await filtered()).toEqual([...away].flatMap(([id, why]) => (why === null ? [] : [id])).toSorted());
});
