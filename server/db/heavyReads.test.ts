import { setImmediate as tick } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { Database } from './database.ts';
import { inBatches } from './inBatches.ts';

let db: Database;
beforeAll(() => {
  db = new Database(inject('databaseUrl'), { connections: 3, heavyReads: 2 });
});
afterAll(() => db.close());

describe('heavy reads', () => {
  test('given up at any moment, they stop themselves and never whoever has their connection next', async () => {
    const count = (most: number) =>
      db.row<{ n: number }>('select count(*)::int as n from generate_series(1, $most::int)', { most });
    let stopped = 0;
    for (let round = 0; round < 80; round += 1) {
      const given = new AbortController();
      const reading = db
        .readHeavily(given.signal, async () => {
          for (let n = 0; n < 6; n += 1) await count(4_000 + 500 * (round % 7));
          return 'read';
        })
        .catch(() => 'stopped');
      // What is light goes on beside it, and after it on the connections that it had.
      const light = Array.from({ length: 4 }, () => count(50));
      for (let n = 0; n < (round * 7) % 40; n += 1) await tick();
      given.abort();
      if ((await reading) === 'stopped') stopped += 1;
      for (const row of await Promise.all([...light, count(60), count(60)]))
        expect(row?.n).toBeGreaterThan(0);
    }
    expect(stopped, 'not all were too late').toBeGreaterThan(10);
  });

  test('no more than a few go on at once, and who has given up while waiting reads nothing', async () => {
    let now = 0;
    let most = 0;
    const open = Array.from({ length: 6 }, () => new AbortController());
    const begun: number[] = [];
    const reading = open.map(({ signal }, i) =>
      db
        .readHeavily(signal, async () => {
          begun.push(i);
          most = Math.max(most, (now += 1));
          await db.rows('select count(*) from generate_series(1, 20000)');
          now -= 1;
          return i;
        })
        .catch((error: Error) => error.name),
    );
    open[4]?.abort();
    expect(await Promise.all(reading)).toEqual([0, 1, 2, 3, 'AbortError', 5]);
    expect([most, begun.toSorted()]).toEqual([2, [0, 1, 2, 3, 5]]);
  });

  test('a transaction that is begun within one writes as any other', async () => {
    await db.readHeavily(new AbortController().signal, async () => {
      await expect(db.rows('create temporary table written (n int)')).rejects.toThrow(/read-only/);
    });
    await db.readHeavily(new AbortController().signal, () =>
      db.transaction(async (within) => {
        await db.rows('create temporary table written (n int) on commit drop', {}, within);
        await db.rows('insert into written values (1)', {}, within);
        expect(await db.rows('select n from written', {}, within)).toEqual([{ n: 1 }]);
      }),
    );
  });
});

describe('rows in batches', () => {
  const of = (count: number, size: number, fails = Infinity) => {
    const asked: string[] = [];
    const read = (after: string) => {
      asked.push(after);
      if (Number(after) >= fails) return Promise.reject(new Error(`after ${after}`));
      const from = Number(after) + 1;
      const length = Math.max(0, Math.min(size, count - Number(after)));
      return Promise.resolve(Array.from({ length }, (_, i) => ({ id: String(from + i) })));
    };
    return { asked, read };
  };

  test.each([
    [0, 3],
    [2, 3],
    [3, 3],
    [10, 3],
  ])(
    '%i rows, %i at a time, come once each and in their order, the next read one ahead',
    async (count, size) => {
      const { asked, read } = of(count, size);
      const seen: string[] = [];
      for await (const some of inBatches(read)) {
        // While the first are worked on, the second are asked for already, and no others.
        expect(asked.length).toBe(Math.ceil((seen.length + some.length) / size) + 1);
        seen.push(...some.map(({ id }) => id));
      }
      expect(seen).toEqual(Array.from({ length: count }, (_, i) => String(i + 1)));
    },
  );

  test('what fails ahead is told when it is come to, and not at all to who stops before', async () => {
    const seen: string[] = [];
    const all = async () => {
      for await (const some of inBatches(of(10, 2, 4).read)) seen.push(...some.map(({ id }) => id));
    };
    await expect(all()).rejects.toThrow('after 4');
    expect(seen).toEqual(['1', '2', '3', '4']);
    for await (const some of inBatches(of(10, 2, 2).read)) {
      expect(some).toHaveLength(2);
      break;
    }
    await tick();
  });
});
