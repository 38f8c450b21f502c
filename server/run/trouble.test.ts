import { once } from 'node:events';
import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { until, World } from '../../testing/world.ts';
import { Business } from '../business/Business.ts';
import { isOurTrouble, LockLost } from '../db/trouble.ts';
import { verify } from '../verify/verify.ts';
import { freeJobsOfTheDead } from './presence.ts';
import { whileHolding } from './runLock.ts';
import { turnDay } from './turnDay.ts';
import { keepUp } from './turnPages.ts';
import { sweep } from './worker.ts';

let world: World;
let admin: Client;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  admin = new Client({ connectionString: world.environment.DATABASE_URL });
  await admin.connect();
});
afterAll(async () => {
  await admin.end();
  await world.end();
});

/** Ends connections to the world's database, as a restart of PostgreSQL would: all, or those of one name. */
const cut = (name: string | null) =>
  admin.query(
    `select pg_terminate_backend(pid) from pg_stat_activity
     where datname = current_database() and pid <> pg_backend_pid() and ($1::text is null or application_name = $1)`,
    [name],
  );
const today = async () => (await Business.findOne({ rejectOnEmpty: true })).businessDate;

describe('a lost connection to the database', () => {
  test('is our trouble: the pass stops, and no customer is held', async () => {
    await world.enrol(Array.from({ length: 12 }, () => ({})));
    const date = await today();
    let failed = 0;
    // Cut again and again while the day is being turned: whichever step it falls into, it is nobody's bad data.
    for (let blow = 0; blow < 8; blow += 1) {
      const turning = turnDay(world.almanac, date).then(
        () => null,
        (error: unknown) => error,
      );
      await until(async () => {
        const at = await admin.query<{ n: string }>(
          `select count(*) as n from pg_stat_activity where datname = current_database() and state <> 'idle' and pid <> pg_backend_pid()`,
        );
        return Number(at.rows[0]?.n) > 0 || (await Promise.race([turning, 'going on'])) !== 'going on';
      }, 'the turn to be at work');
      await cut(null);
      const error = await turning;
      if (error === null) continue;
      failed += 1;
      expect(isOurTrouble(error), String(error)).toBe(true);
    }
    expect(failed).toBeGreaterThan(0);
    await until(
      () =>
        turnDay(world.almanac, date).then(
          () => true,
          () => false,
        ),
      'the day to be turned in peace',
    );
    expect(await world.almanac.db.rows('select id from subscriptions where held_on is not null')).toEqual([]);
    expect(await world.almanac.db.rows(`select id from needs where kind = 'held'`)).toEqual([]);
    expect(await world.chargesAtGateway()).toHaveLength(12);
    for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  });

  test('that held the right to turn days is told to the work, which begins nothing more', async () => {
    const [id = ''] = await world.enrol([{}]);
    const held = whileHolding(world.almanac.db, async (signal) => {
      await cut('almanac run lock');
      if (!signal.aborted) await once(signal, 'abort');
      // Another process has the right by now.
      expect(await whileHolding(world.almanac.db, () => Promise.resolve())).toBe(true);
      await turnDay(world.almanac, await today(), signal);
    });
    await expect(held).rejects.toBeInstanceOf(LockLost);
    expect(
      await world.almanac.db.rows('select id from invoices where subscription_id = $id', { id }),
    ).toEqual([]);
    expect(await world.almanac.db.rows('select id from subscriptions where held_on is not null')).toEqual([]);
  });
});

test('bad data of one customer is held and named, and stops nobody', async () => {
  const [bad = '', good = ''] = await world.enrol([{}, {}]);
  await world.almanac.db.rows(
    `update subscriptions set terms = jsonb_set(terms, '{interval}', '"nonsense"') where id = $bad`,
    { bad },
  );
  await world.turnTo(formatDay(toDay(await today()) + 1));
  const states = await world.almanac.db.rows(
    'select id, state from subscriptions where id in ($bad, $good)',
    {
      ...{ bad, good },
    },
  );
  expect(states).toContainEqual({ id: good, state: 'active' });
  const need = await world.almanac.db.row<{ kind: string }>(
    'select kind from needs where subscription_id = $bad',
    { bad },
  );
  expect(need).toEqual({ kind: 'held' });
  await world.almanac.db.rows(
    `update subscriptions set terms = jsonb_set(terms, '{interval}', '"P1M"') where id = $bad`,
    { bad },
  );
  await world.turnTo(formatDay(toDay(await today()) + 1));
});

describe('the queue', () => {
  const jobs = () =>
    world.almanac.db.rows<{ key: string; revision: number; locked_by: string | null; attempts: number }>(
      `select key, revision, locked_by, attempts from graphile_worker.jobs where task_identifier = 'send-letter' order by id`,
    );

  test('is left alone by the sweep, but for letters that no job is there for', async () => {
    const before = await jobs();
    expect(before.length).toBeGreaterThan(5);
    await sweep(world.almanac);
    await sweep(world.almanac);
    expect(await jobs()).toEqual(before);
    const lost = before[0]?.key ?? '';
    await world.almanac.db.rows('select graphile_worker.remove_job($lost) is null as gone', { lost });
    await sweep(world.almanac);
    expect((await jobs()).map(({ key }) => key).sort()).toEqual(before.map(({ key }) => key).sort());
  });

  test('gets back the jobs of a worker that was not heard of any more, and of no other', async () => {
    const { db } = world.almanac;
    await db.rows(
      `insert into workers (worker_id, seen_at) values ('alive', now()), ('dead', now() - interval '1 minute')`,
    );
    await db.rows(
      `update graphile_worker._private_jobs j set locked_at = now() - interval '5 minutes', locked_by = case when id % 2 = 0 then 'alive' else 'dead' end`,
    );
    await freeJobsOfTheDead(db);
    const held = new Set((await jobs()).map(({ locked_by }) => locked_by));
    expect(held).toEqual(new Set(['alive', null]));
    await db.rows(`update graphile_worker._private_jobs set locked_at = null, locked_by = null`);
  });
});

test('by the clock, days that were missed are turned one by one, and the date never goes back', async () => {
  const { db } = world.almanac;
  const start = await today();
  await db.rows('update business set practice = false');
  const at = (days: number) => new Date(`${formatDay(toDay(start) + days)}T12:00:00Z`);
  await keepUp(world.almanac, at(3));
  expect(await today()).toBe(formatDay(toDay(start) + 3));
  await keepUp(world.almanac, at(1));
  expect(await today()).toBe(formatDay(toDay(start) + 3));
  const turned = await db.rows<{ n: number }>(
    'select count(*)::int as n from days where finished_at is not null and business_date between $start and $end',
    { start, end: formatDay(toDay(start) + 3) },
  );
  expect(turned).toEqual([{ n: 4 }]);
  await db.rows('update business set practice = true');
});
