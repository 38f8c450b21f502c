import type { Express } from 'express';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { asking, signedIn } from '../../testing/door.ts';
import { World } from '../../testing/world.ts';
import { makeApp } from '../http/app.ts';

let world: World;
let app: Express;
let olga: ReturnType<typeof asking>;
let rita: ReturnType<typeof asking>;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  ({ app } = makeApp(world.almanac, world.almanac.config, '/nowhere'));
  olga = asking(app, (await signedIn(world, 'owner', 'Olga')).cookie);
  rita = asking(app, (await signedIn(world, 'reader', 'Rita')).cookie);
});
afterAll(() => world.end());

const view = {
  list: 'subscriptions',
  name: 'Late',
  asked: { state: 'overdue' },
  columns: ['Customer', 'Next'],
};

test('a view is kept for whoever saved it, in place of the one of that name, and is nobody else’s', async () => {
  expect((await olga('put', '/api/views', view)).body).toMatchObject([{ name: 'Late', asked: view.asked }]);
  const again = await olga('put', '/api/views', { ...view, columns: ['Customer'] });
  expect(again.body).toMatchObject([{ name: 'Late', columns: ['Customer'] }]);
  // A reader may keep views too, and sees none but their own.
  expect((await rita('get', '/api/views?list=subscriptions')).body).toEqual([]);
  expect((await rita('put', '/api/views', view)).status).toBe(200);
  const { id } = again.body[0] as { id: string };
  expect((await rita('delete', `/api/views/${id}`)).status).toBe(404);
  expect((await olga('get', '/api/views?list=customers')).body).toEqual([]);
  expect((await olga('delete', `/api/views/${id}`)).status).toBeLessThan(300);
  expect((await olga('get', '/api/views?list=subscriptions')).body).toEqual([]);
  expect((await asking(app)('get', '/api/views?list=subscriptions')).status).toBe(401);
});

test.each([
  { of: { columns: [] }, at: '/columns' },
  { of: { list: 'Not a list!' }, at: '/list' },
  { of: { name: 'x'.repeat(61) }, at: '/name' },
  { of: { asked: { state: 'x'.repeat(101) } }, at: '/asked/state' },
])('$at is refused where it is not good', async ({ of, at }) => {
  const answer = await olga('put', '/api/views', { ...view, ...of });
  expect([answer.status, answer.body.errors?.[0]?.pointer]).toEqual([422, at]);
});

test('there is an end to how many one keeps', async () => {
  const answers = [];
  for (let n = 0; n <= 40; n += 1)
    answers.push((await olga('put', '/api/views', { ...view, name: `View ${n}` })).status);
  expect(answers.filter((status) => status === 200)).toHaveLength(40);
  expect(answers.at(-1)).toBe(409);
});
