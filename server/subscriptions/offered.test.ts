import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { Offering } from '../../testing/offering.ts';
import { World } from '../../testing/world.ts';
import { exportOffer, importOffer } from '../imports/offerFile.ts';
import { verify } from '../verify/verify.ts';

let world: World;
let offering: Offering;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  offering = await Offering.of(world);
});
afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

const lines = [{ name: 'Row', price: { scheme: 'flat', amount: '12.00' } }];
const rate = (name: string, terms: object, options: object = {}) => ({
  name,
  terms: { currency: 'GBP', lines, ...terms },
  options,
});

test('a variant may be had at some of the plan’s rates alone, with a rhythm or a trial of its own', async () => {
  const { id: planId } = await offering.done('post', '/api/plans', {
    ...{ name: 'Boxes', rate: rate('Monthly', { interval: 'P1M' }) },
  });
  const { id: tried } = await offering.done('post', `/api/plans/${planId}/rates`, {
    ...rate('Weekly, tried', { interval: 'P1W', trial: { length: 'P7D' } }),
  });
  const { id: alone } = await offering.done('post', `/api/plans/${planId}/rates`, {
    ...rate('Yearly', { interval: 'P1Y' }),
  });
  const { rates } = await offering.done<{ rates: { id: string; name: string }[] }>(
    'get',
    `/api/plans/${planId}`,
  );
  const monthly = rates.find(({ name }) => name === 'Monthly')?.id ?? '';
  const variants = `/api/plans/${planId}/variants`;
  const { id: large } = await offering.done('post', variants, { name: 'Large', rates: [monthly] });
  const { id: small } = await offering.done('post', variants, { name: 'Small', rates: [monthly, tried] });

  const refused = async (rateId: string, variantId: string | undefined) => {
    const { status, body } = await offering.enrol(rateId, variantId ? { variantId } : {});
    expect([status, body.errors?.[0]?.pointer]).toEqual([422, '/variantId']);
    return body.errors[0].detail as string;
  };
  expect(await refused(tried, large)).toBe('At this rate, choose one of: Small.');
  expect(await refused(monthly, undefined)).toBe('At this rate, choose one of: Large, Small.');
  expect(await refused(alone, small)).toBe('This rate is offered without variants.');
  await offering.enrolled(alone);
  await offering.enrolled(monthly, { variantId: large });
  const id = await offering.enrolled(tried, { variantId: small });

  const moved = await offering.ask('post', `/api/subscriptions/${id}/effect`, {
    ...{ kind: 'variant', variantId: large, from: 'renewal' },
  });
  expect([moved.status, moved.body.errors?.[0]?.pointer]).toEqual([422, '/variantId']);
  const strange = await offering.ask('post', variants, { name: 'Odd', rates: ['999999'] });
  expect([strange.status, strange.body.errors?.[0]?.pointer]).toEqual([422, '/rates/0']);

  // It goes out in a file by the keys of the rates, and comes in as it went out.
  const { plans } = (await exportOffer(world.almanac)) as { plans: { key: string; variants: object[] }[] };
  expect(plans.find(({ key }) => key === 'boxes')?.variants).toMatchObject([
    { name: 'Large', rates: ['monthly'] },
    { name: 'Small', rates: ['monthly', 'weekly-tried'] },
  ]);
});

test('the end of a trial is told of by what its rate and the country of its customer ask for', async () => {
  const start = '2027-03-01';
  await world.turnTo(start);
  const read = await offering.done<{ value: object; version: number }>('get', '/api/setup/customers');
  await offering.done('put', '/api/setup/customers', {
    version: read.version,
    value: { ...read.value, trialNotices: [{ country: 'FR', days: 10 }] },
  });
  const terms = (days: number) => ({ lines, trial: { length: `P${days}D` } });
  const short = await offering.plan({ name: 'Short' }, terms(7));
  const long = await offering.plan({ name: 'Long' }, terms(20));
  const late = await offering.plan({ name: 'Late' }, terms(20), { trialNoticeDays: 2 });
  const abroad = { customer: { name: 'Amélie', email: 'amelie@post.example', country: 'FR' } };
  const lives = {
    short: await offering.enrolled(short.rateId),
    long: await offering.enrolled(long.rateId),
    late: await offering.enrolled(late.rateId),
    lateAbroad: await offering.enrolled(late.rateId, abroad),
  };
  await world.turnTo('2027-03-25');
  const told = Object.fromEntries(
    await Promise.all(
      Object.entries(lives).map(async ([name, id]) => {
        const rows = await world.almanac.db.rows<{ on: string }>(
          `select written_on as on from letters where subscription_id = $id and event = 'trial ending'`,
          { id },
        );
        return [name, rows.map(({ on }) => on)] as const;
      }),
    ),
  );
  expect(told).toEqual({
    short: ['2027-03-05'],
    long: ['2027-03-14'],
    late: ['2027-03-19'],
    lateAbroad: ['2027-03-11'],
  });

  const lines10 = async () =>
    (await offering.done<{ lines: { says: string; why: string }[] }>('get', '/api/readiness')).lines.filter(
      ({ says }) => says.includes('too short to be told'),
    );
  expect((await lines10()).map(({ says }) => says)).toEqual([
    'The trial of Boxes, Weekly, tried, is too short to be told of its end in time',
    'The trial of Short, Only, is too short to be told of its end in time',
  ]);
  expect((await lines10())[0]?.why).toContain('France (10 days)');
});

test('a file of an earlier version, with two switches for how a rate is paid, is taken for what it says', async () => {
  const file = {
    plans: [
      {
        ...{ key: 'by-hand', name: 'By hand' },
        rates: [
          {
            ...{ key: 'monthly', name: 'Monthly' },
            terms: { currency: 'GBP', interval: 'P1M', lines },
            options: { methods: ['card'], collects: 'by hand' },
          },
        ],
      },
    ],
  };
  const report = await importOffer(world.almanac, {
    text: JSON.stringify(file),
    dryRun: false,
    update: false,
  });
  expect(report.problems).toEqual([]);
  const [row] = await world.almanac.db.rows(
    `select options -> 'methods' as methods, options ? 'collects' as both from rates where key = 'monthly' and name = 'Monthly' order by id desc limit 1`,
  );
  expect(row).toEqual({ methods: ['invoice'], both: false });
});
