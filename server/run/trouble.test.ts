import { once } from 'node:events';
import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { until, World } from '../../testing/world.ts';
import { Business } from '../business/Business.ts';
import { ClaimLost, isOurTrouble } from '../db/trouble.ts';
import { verify } from '../verify/verify.ts';
import { freeJobsOfTheDead } from './presence.ts';
import { Claims } from './claim.ts';
import { turnDay } from './turnDay.ts';
import { keepUp } from './turnPages.ts';

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

  test('workers that cut a step at the same moment all see that it is open, and each item is in one batch', async () => {
    const { db } = world.almanac;
    for (let round = 0; round < 15; round += 1) {
      const of = {
        ...{ businessDate: '2026-01-01', step: `cut ${round}`, at: 1000, size: 10, bound: {} },
        due: `select n::text as item from generate_series(1, 25) n where $businessDate::date is not null`,
      };
      const workers = ['one', 'two', 'three'].map((name) => new Claims(db, of, name, 60_000));
      const plans = await Promise.all(workers.map((worker) => worker.plan(1)));
      expect(plans.map(({ isOpen }) => isOpen)).toEqual([true, true, true]);
      const items = await db.rows<{ item: string }>(
        'select unnest(items) as item from run_batches where step = $step',
        { step: of.step },
      );
      expect(new Set(items.map(({ item }) => item)).size).toBe(items.length);
      expect(items).toHaveLength(25);
    }
    await db.rows(`delete from run_batches where step like 'cut %'`);
  });

  test('of a worker that was silent for too long is told to it: another has its work, which is done once', async () => {
    const ids = await world.enrol(Array.from({ length: 3 }, () => ({})));
    const date = await today();
    const { db } = world.almanac;
    const of = {
      ...{ businessDate: date, step: 'a step of a test', at: 1000, size: 2, bound: { ids } },
      due: `select item from unnest($ids::text[]) as item where $businessDate::date is not null`,
    };
    const silent = new Claims(db, of, 'silent', 400);
    const other = new Claims(db, of, 'other', 60_000);
    const { mine } = await silent.plan(1);
    expect(mine.map(({ items }) => items)).toEqual([ids.slice(0, 2)]);
    expect(await other.plan(1)).toEqual({ mine: [], isOpen: true });
    const [batch] = mine;
    if (!batch) throw new Error('There is no batch.');
    expect((await other.claim())?.items).toEqual(ids.slice(2));
    expect(await other.claim()).toBeNull();
    const taken = async () => {
      // The silent one's word does not get through: its claim lapses, and the other takes it.
      await db.rows(
        `update run_batches set claimed_until = now() - interval '1 second' where id = $id and claimed_by = 'silent'`,
        { id: batch.id },
      );
      await other.claim();
      return (
        await db.row<{ by: string }>('select claimed_by as by from run_batches where id = $id', {
          id: batch.id,
        })
      )?.by;
    };
    const told = silent.holding(batch, async (signal) => {
      await until(async () => (await taken()) === 'other', 'the batch to be taken over');
      if (!signal.aborted) await once(signal, 'abort');
      signal.throwIfAborted();
    });
    await expect(told).rejects.toBeInstanceOf(ClaimLost);
    await silent.giveBack(batch);
    expect(await taken()).toBe('other');
    await other.finish(batch);
    const signal = new AbortController().signal;
    await silent.earlierDone({ ...batch, place: 1 }, signal);
    await expect(silent.earlierDone({ ...batch, place: 2 }, AbortSignal.abort())).rejects.toThrow();
    await db.rows(`delete from run_batches where step = 'a step of a test'`);
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

test('the queue gets back the jobs of a worker that was not heard of any more, and of no other', async () => {
  const { db } = world.almanac;
  for (const id of [1, 2, 3, 4])
    await db.rows(
      `select graphile_worker.add_job('sweep', job_key => 'sweep-' || $id::text) is null as added`,
      { id },
    );
  await db.rows(
    `insert into workers (worker_id, seen_at) values ('alive', now()), ('dead', now() - interval '1 minute')`,
  );
  await db.rows(
    `update graphile_worker._private_jobs j set locked_at = now() - interval '5 minutes', locked_by = case when id % 2 = 0 then 'alive' else 'dead' end`,
  );
  await freeJobsOfTheDead(db);
  const jobs = await db.rows<{ locked_by: string | null }>('select locked_by from graphile_worker.jobs');
  expect(jobs.map(({ locked_by }) => locked_by).sort()).toEqual(['alive', 'alive', null, null]);
  await db.rows(`delete from graphile_worker._private_jobs`);
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
