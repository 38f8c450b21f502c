import { expect, test } from 'vitest';
import type { Database } from './database.ts';
import { doneTogether, patiently, readTogether } from './together.ts';

test('what is asked for at once is done together, in its order; what is wrong with one is no trouble of the others', async () => {
  const db = {} as Database;
  const batches: string[][] = [];
  const work = async (items: readonly string[]) => {
    batches.push([...items]);
    await Promise.resolve();
    if (items.includes('bad')) throw new Error(items.length === 1 ? 'this one is bad' : 'one of them is bad');
    return items.map((item) => item.toUpperCase());
  };
  const ask = (item: string, what = 'x') => doneTogether(db, what, item, { work, most: 3 });
  const answers = await Promise.allSettled(['a', 'b', 'bad', 'c', 'd'].map((item) => ask(item)));
  expect(
    answers.map((one) => (one.status === 'fulfilled' ? one.value : (one.reason as Error).message)),
  ).toEqual(['A', 'B', 'this one is bad', 'C', 'D']);
  // The first begins alone; those that gathered meanwhile follow, three at a time, and alone after a fault.
  expect(batches).toEqual([['a'], ['b', 'bad', 'c'], ['b'], ['bad'], ['c'], ['d']]);
  // Afterwards another begins anew, and what is called otherwise is not mixed with it.
  batches.length = 0;
  expect(await Promise.all([ask('e'), ask('f', 'y')])).toEqual(['E', 'F']);
  expect(batches.toSorted()).toEqual([['e'], ['f']]);
});

test('who gathers behind one that takes too long does not wait for it, where there is a patience', async () => {
  const db = {} as Database;
  let free: () => void = () => {};
  const stuck = new Promise<void>((done) => (free = done));
  const work = async (items: readonly string[]) => {
    if (items.includes('slow')) await stuck;
    return items;
  };
  const ask = (item: string) => doneTogether(db, 'x', item, { work, most: 3, patienceMs: 5 });
  const slow = ask('slow');
  expect(await Promise.all([ask('a'), ask('b')])).toEqual(['a', 'b']);
  expect(await patiently(5, slow)).toBe(false);
  free();
  expect(await patiently(60_000, slow)).toBe(true);
  expect(await slow).toBe('slow');
  await expect(patiently(60_000, Promise.reject(new Error('no')))).rejects.toThrow('no');
});

test('what is being read is read once for all who ask the same, and anew for whoever asks later', async () => {
  const db = {} as Database;
  let reads = 0;
  const ask = (what: string) => readTogether(db, what, () => Promise.resolve((reads += 1)));
  expect(await Promise.all([ask('a'), ask('a'), ask('b')])).toEqual([1, 1, 2]);
  expect(await ask('a')).toBe(3);
  const refused = () => readTogether(db, 'c', () => Promise.reject(new Error('no')));
  expect((await Promise.allSettled([refused(), refused()])).map(({ status }) => status)).toEqual([
    'rejected',
    'rejected',
  ]);
});
