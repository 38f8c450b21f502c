import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, inject, test } from 'vitest';
import { ROOT } from '../../command/settings.ts';
import { SHORT_WAIT, until, World } from '../../testing/world.ts';
import { Business } from '../business/Business.ts';
import { importFiles } from '../imports/importFiles.ts';
import { verify } from '../verify/verify.ts';
import { PageTurn } from './PageTurn.ts';
import { askForTurn } from './turnPages.ts';

const LAST_DAY = '2027-02-20';
const worlds: World[] = [];
afterAll(() => Promise.all(worlds.map((world) => world.end())));

/** A world with the plans of the sample and customers whose cards do everything that practice cards do. */
async function sample(): Promise<World> {
  const world = await World.begin(inject('databaseUrl'), SHORT_WAIT);
  worlds.push(world);
  const behaviours = [
    {},
    { code: '51' },
    { silent: true },
    { code: '51', firstTries: 2 },
    { code: '91', firstDay: true },
    { code: '54' },
    { silent: true },
    { code: '41', from: '2027-02-01' },
  ];
  const rates = [
    'hive-watch,monthly',
    'adopt-a-row,monthly',
    'apiary-ground,twice-a-month',
    'starter-kit,at-once',
  ];
  const cards = Array.from({ length: 24 }, (_, i) => ({
    token: `sample-card-${i}`,
    behaviour: behaviours[i % behaviours.length] ?? {},
  }));
  await world.moveCards(cards);
  const rows = cards.map(
    ({ token }, i) =>
      `S-${i},Person ${i},person${i}@post.example,${rates[i % 4]},2027-01-${String(4 + (i % 9)).padStart(2, '0')},,${token}`,
  );
  const report = await importFiles(
    world.almanac,
    [
      { name: 'plans.json', text: readFileSync(join(ROOT, 'demo', 'plans.json'), 'utf8') },
      {
        name: 'customers.csv',
        text: `reference,name,email,plan,rate,starts,quantity,card_token\r\n${rows.join('\r\n')}\r\n`,
      },
    ],
    { dryRun: false },
  );
  expect(report.problems).toEqual([]);
  return world;
}

const isTurned = async () => (await PageTurn.count({ where: { state: ['turning', 'waiting'] } })) === 0;

/** Turns the pages with a worker process; `kills` are the dates at which it is killed in the middle of its work. */
async function turn(world: World, kills: readonly string[]): Promise<number> {
  await askForTurn(world.almanac, LAST_DAY);
  let killed = 0;
  for (const date of [...kills, null]) {
    const worker = await world.parts.start(
      'worker',
      ['command/main.ts', 'worker'],
      world.environment,
      'worker at work',
    );
    if (date === null) break;
    const reached = async () =>
      (await Business.findOne({ rejectOnEmpty: true })).businessDate >= date || (await isTurned());
    await until(reached, `the page of ${date}`);
    const died = new Promise((resolve) => worker.once('exit', resolve));
    if (!(await isTurned())) killed += 1;
    worker.kill('SIGKILL');
    await died;
  }
  await until(isTurned, 'the last page');
  await until(async () => {
    const queued = await world.almanac.db.row<{ n: number }>(
      `select count(*)::int as n from letters where state = 'queued'`,
    );
    return queued?.n === 0;
  }, 'the last letter');
  return killed;
}

/** Everything that a customer, a bookkeeper or the gateway would notice, without what differs by chance. */
async function whatCameOfIt(world: World) {
  const { db } = world.almanac;
  const charges = await world.chargesAtGateway();
  return {
    invoices: await db.rows(
      `select i.number, s.reference, i.kind, i.period_from, i.period_to, i.issued_on, i.due_on, i.total, i.collected, i.state
       from invoices i join subscriptions s on s.id = i.subscription_id order by i.number`,
    ),
    attempts: await db.rows(
      `select i.number, a.attempted_on, a.reason, a.state, a.response_code
       from attempts a join invoices i on i.id = a.invoice_id order by i.number, a.attempted_on, a.reason`,
    ),
    letters: await db.rows(
      `select s.reference, l.event, l.subject, l.written_on, l.state
       from letters l join subscriptions s on s.id = l.subscription_id order by 1, 4, 2, 3`,
    ),
    subscriptions: await db.rows('select reference, state, closed_on from subscriptions order by reference'),
    charges: charges.map(({ amount, state, code }) => `${state} ${code} ${amount}`).sort(),
    posted: world.mail().length,
  };
}

describe('a worker that is killed in the middle of turning pages', () => {
  test('leaves what an undisturbed run leaves, and charges nobody twice', async () => {
    const calm = await sample();
    await turn(calm, []);
    const expected = await whatCameOfIt(calm);

    const stormy = await sample();
    const killed = await turn(stormy, ['2027-01-06', '2027-01-09', '2027-01-12', '2027-01-21', '2027-02-06']);
    expect(killed).toBeGreaterThanOrEqual(4);
    expect(await whatCameOfIt(stormy)).toEqual(expected);
    expect((await verify(stormy.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
    expect(expected.invoices.length).toBeGreaterThan(35);
    expect(expected.posted).toBe(expected.letters.length);
  });
});

describe('a gateway that is away', () => {
  test('declines nobody: its charges wait, the page is turned, and they are made when the gateway is back', async () => {
    const world = await World.begin(inject('databaseUrl'), SHORT_WAIT);
    worlds.push(world);
    await world.enrol([{}, {}, {}]);
    await world.misbehave({ down: true });
    await world.turnTo('2027-01-06');
    const attempts = await world.almanac.db.rows<{ state: string }>('select state from attempts');
    expect(new Set(attempts.map(({ state }) => state))).toEqual(new Set(['under way']));
    expect(await world.almanac.db.rows('select 1 from recovery_cases')).toEqual([]);

    await world.misbehave({ dropAnswers: 2 });
    await world.turnTo('2027-01-08');
    expect((await world.chargesAtGateway()).map(({ state }) => state)).toEqual([
      'collected',
      'collected',
      'collected',
    ]);
    expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
  });
});
