import fc from 'fast-check';
import { afterEach, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { USUAL_MANNER, type LadderPolicy } from '../../core/recovery/ladder.ts';
import { DEFAULT_LADDER } from '../../core/recovery/startingLadders.ts';
import { World } from '../../testing/world.ts';
import type { Behaviour } from '../../standins/gateway/practiceCards.ts';
import { Ladder } from '../recovery/Ladder.ts';
import { makeVersion } from '../recovery/makeVersion.ts';
import { collectDebts } from '../recovery/newMethod.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { verify } from '../verify/verify.ts';
import { turnDay } from './turnDay.ts';

/*
 * A month of the same business, once in peace and once under blows: the gateway answers charges with anything, drops
 * answers after charging, is away, and two passes turn one day at once. Whatever falls on it, nobody is declined,
 * written to, charged or lapsed otherwise than in peace, once what waited has been answered. Other seeds:
 * FAULTS_SEED=7 npx vitest run server/run/faults.test.ts
 */
const SEED = Number(process.env.FAULTS_SEED ?? 20270104);
const DAYS = 30;
const QUIET_DAYS = 18;

const CARDS: readonly Behaviour[] = [
  {},
  { code: '51' },
  { code: '51', firstTries: 2 },
  { code: '54' },
  { code: '41' },
  {},
  { code: '91', firstTries: 1 },
  { code: '65', firstTries: 3 },
];

type Blow =
  | { readonly falls: 'answer'; readonly status: number; readonly charged: boolean; readonly page: boolean }
  | { readonly falls: 'drop'; readonly times: number }
  | { readonly falls: 'away' }
  | { readonly falls: 'twice' }
  | { readonly falls: 'nothing' };

const blow: fc.Arbitrary<Blow> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      falls: fc.constant('answer' as const),
      status: fc.constantFrom(401, 403, 404, 408, 413, 429, 500, 502, 503),
      charged: fc.boolean(),
      page: fc.constant(true),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({ falls: fc.constant('drop' as const), times: fc.integer({ min: 1, max: 2 }) }),
  },
  { weight: 2, arbitrary: fc.record({ falls: fc.constant('away' as const) }) },
  { weight: 2, arbitrary: fc.record({ falls: fc.constant('twice' as const) }) },
  { weight: 3, arbitrary: fc.record({ falls: fc.constant('nothing' as const) }) },
);

const worlds: World[] = [];
afterEach(async () => {
  for (const world of worlds.splice(0)) await world.end();
});

/** A ladder that does, on one rung or another, everything that a rung can do, and otherwise for each class of decline. */
const BRANCHED: LadderPolicy = {
  rungs: [
    { afterDays: 0, retry: false, letter: true },
    { afterDays: 2, retry: true, letter: false, classes: ['wait', 'soon'] },
    { afterDays: 3, retry: false, letter: true, classes: ['ask', 'never'], tellsStaff: true },
    { afterDays: 5, retry: true, letter: true, acts: { kind: 'pause' } },
    { afterDays: 9, retry: true, letter: true, acts: { kind: 'task', says: 'Call them.' } },
  ],
  finalAction: 'end',
  finalAfterDays: 12,
  manner: { ...USUAL_MANNER, payDays: [8, 22], payDayWithin: 2, workingDays: true },
};

/** Begins the same business each time: eight customers, whose cards do each what real ones do. */
async function begin(policy = DEFAULT_LADDER): Promise<{ world: World; ids: string[] }> {
  const world = await World.begin(inject('databaseUrl'), { GATEWAY_TIMEOUT_MS: '2000' });
  worlds.push(world);
  if (policy !== DEFAULT_LADDER)
    await world.almanac.db.transaction(async (within) => {
      const of = await Ladder.findOne({ where: { isDefault: true }, transaction: within });
      const facts = {
        name: 'Branched',
        serves: {},
        isDefault: true,
        place: 0,
        madeOn: '2027-01-04',
        madeBy: '',
      };
      await makeVersion({ ...facts, policy, of }, within);
    });
  return { world, ids: await world.enrol(CARDS, { interval: 'P2W' }) };
}

async function strike(world: World, one: Blow): Promise<void> {
  switch (one.falls) {
    case 'answer': {
      const { status, charged, page } = one;
      await world.misbehave({ chargesAnswer: { status, charged, page, times: 3 } });
      return;
    }
    case 'drop':
      await world.misbehave({ dropAnswers: one.times });
      return;
    case 'away':
      await world.misbehave({ down: true });
      return;
    case 'twice':
    case 'nothing':
      await world.misbehave({});
  }
}

/** What a customer, a bookkeeper or the gateway would notice of each subscription, without the days on which it came. */
async function whatCameOfIt(world: World, ids: readonly string[]) {
  const { db } = world.almanac;
  return Promise.all(
    ids.map(async (id) => ({
      states: await db.rows('select state, ended_why from subscriptions where id = $id', { id }),
      invoices: await db.rows(
        'select period_from, total, collected, state from invoices where subscription_id = $id order by period_from',
        { id },
      ),
      attempts: await db.rows(
        `select a.state, a.response_code as code, a.reason from attempts a join invoices i on i.id = a.invoice_id
         where i.subscription_id = $id and a.state <> 'under way' order by a.id`,
        { id },
      ),
      letters: await db.rows(
        `select event from letters where subscription_id = $id and event <> 'started' order by event, id`,
        { id },
      ),
      rungs: await db.rows(
        `select r.rung, r.did from rungs_climbed r join recovery_cases k on k.id = r.case_id
         where k.subscription_id = $id order by k.id, r.rung`,
        { id },
      ),
    })),
  );
}

async function holds(world: World, when: string): Promise<void> {
  for (const { rule, breaches } of await verify(world.almanac))
    expect(breaches, `${rule}, ${when}`).toEqual([]);
  expect(await world.almanac.db.rows(`select says from needs where kind = 'held'`), when).toEqual([]);
}

/** No charge at the gateway that is not one of ours, and none of ours there twice. */
async function chargedOnce(world: World): Promise<void> {
  const keys = (await world.chargesAtGateway()).map(({ idempotencyKey }) => idempotencyKey);
  expect(new Set(keys).size).toBe(keys.length);
  const ours = await world.almanac.db.rows<{ key: string }>(
    `select idempotency_key as key from attempts where state in ('collected', 'declined')`,
  );
  expect(keys.sort()).toEqual(ours.map(({ key }) => key).sort());
}

describe('a month under blows', () => {
  test('while a blow lasts nobody is declined or written to for it, and what is collected is collected once', async () => {
    const { world } = await begin(BRANCHED);
    const blows = fc.sample(blow, { seed: SEED, numRuns: DAYS });
    const first = '2027-01-04';
    for (const [i, one] of blows.entries()) {
      const day = formatDay(toDay(first) + i);
      await strike(world, one);
      if (one.falls === 'twice') await Promise.all([1, 2].map(() => turnDay(world.almanac, day)));
      await world.turnTo(formatDay(toDay(day) + 1));
      const waiting = await world.almanac.db.rows(`select id from attempts where state = 'under way'`);
      // With what waits still waiting, and with nothing waiting, everything that must always be true is.
      if (i % 5 === 0 || waiting.length === 0) {
        await world.misbehave({});
        await holds(world, `day ${day}, after ${JSON.stringify(one)}`);
      }
    }
    await world.misbehave({});
    await world.turnTo(formatDay(toDay(first) + DAYS + QUIET_DAYS));
    await holds(world, 'at the end');
    await chargedOnce(world);
    expect(
      await world.almanac.db.rows(`select id from attempts where state in ('under way', 'refused')`),
    ).toEqual([]);
    // Declines are those of the cards: of no account, no gateway and no proxy.
    const codes = await world.almanac.db.rows<{ code: string }>(
      `select distinct response_code as code from attempts where state = 'declined' order by 1`,
    );
    expect(codes.map(({ code }) => code)).toEqual(['41', '51', '54', '65', '91']);
  });

  test.each([
    ['that everybody begins with', DEFAULT_LADDER],
    ['that does all that one can', BRANCHED],
  ])(
    'a blow on one day, mended on the next, leaves what a day in peace leaves, by the ladder %s',
    async (_, policy) => {
      const calm = await begin(policy);
      await calm.world.turnTo('2027-02-10');
      const expected = await whatCameOfIt(calm.world, calm.ids);
      const struck = await begin(policy);
      for (const [day, one] of [
        ['2027-01-05', { falls: 'drop', times: 2 }],
        ['2027-01-19', { falls: 'twice' }],
      ] as const) {
        await struck.world.turnTo(day);
        await strike(struck.world, one);
        if (one.falls === 'twice') await Promise.all([1, 2, 3].map(() => turnDay(struck.world.almanac, day)));
        await struck.world.turnTo(formatDay(toDay(day) + 1));
        await struck.world.misbehave({});
      }
      await struck.world.turnTo('2027-02-10');
      expect(await whatCameOfIt(struck.world, struck.ids)).toEqual(expected);
      await chargedOnce(struck.world);
      await holds(struck.world, 'at the end');
    },
  );
});

test('a customer who pays in the middle of a retry that is not known is charged once', async () => {
  const { world, ids } = await begin();
  const [, id = ''] = ids;
  await world.turnTo('2027-01-07');
  await world.misbehave({ chargesAnswer: { status: 502, charged: true, page: true } });
  await world.turnTo('2027-01-08');
  await world.misbehave({});
  const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
  const pay = (key: string) =>
    collectDebts(
      world.almanac,
      { customerId, channel: 'customer' },
      `own page ${key}`,
      '2027-01-08',
      'by the customer',
    );
  await Promise.all(['one', 'two', 'three'].map(pay));
  await world.turnTo('2027-01-09');
  const tries = await world.almanac.db.rows<{ on: string; n: number }>(
    `select a.attempted_on as on, count(*)::int as n from attempts a join invoices i on i.id = a.invoice_id
     where i.subscription_id = $id group by 1 order by 1`,
    { id },
  );
  // Each of three wishes is one try of its own after the one that was under way, since all of them are declined.
  expect(tries[0]).toEqual({ on: '2027-01-04', n: 1 });
  await chargedOnce(world);
  await holds(world, 'after it');
});
