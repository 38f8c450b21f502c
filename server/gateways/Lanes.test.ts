import { expect, test } from 'vitest';
import { Lanes } from './Lanes.ts';

/** Questions that are answered when the test says so. */
function questions(lanes: Lanes) {
  const open: (() => void)[] = [];
  const begun: number[] = [];
  return {
    open,
    begun,
    ask: (n: number) =>
      lanes.run(async () => {
        begun.push(n);
        await new Promise<void>((answer) => open.push(answer));
        return n;
      }),
  };
}
const settled = () => new Promise((resolve) => setImmediate(resolve));

test('no more questions are open than are allowed, and they are asked in their order', async () => {
  const lanes = new Lanes(3);
  const { open, begun, ask } = questions(lanes);
  const asked = Promise.all([1, 2, 3, 4, 5].map(ask));
  await settled();
  expect(begun).toEqual([1, 2, 3]);
  open.shift()?.();
  await settled();
  expect(begun).toEqual([1, 2, 3, 4]);
  while (open.length > 0) {
    open.shift()?.();
    await settled();
  }
  expect(await asked).toEqual([1, 2, 3, 4, 5]);
});

test('a gateway that asks for fewer gets half each time, at least one, and more again after fifty that went well', async () => {
  const lanes = new Lanes(8);
  for (const allowed of [4, 2, 1, 1]) {
    lanes.slowDown(0);
    expect(lanes.allowed).toBe(allowed);
  }
  const { open, begun, ask } = questions(lanes);
  const asked = Promise.all([1, 2, 3].map(ask));
  await settled();
  expect(begun).toEqual([1]);
  for (let n = 0; n < 49; n += 1) lanes.wentWell();
  expect(lanes.allowed).toBe(1);
  lanes.wentWell();
  expect(lanes.allowed).toBe(2);
  await settled();
  expect(begun, 'the new lane is used at once').toEqual([1, 2]);
  while (open.length > 0) {
    open.shift()?.();
    await settled();
  }
  expect(await asked).toEqual([1, 2, 3]);
  for (let n = 0; n < 1_000; n += 1) lanes.wentWell();
  expect(lanes.allowed).toBe(8);
});

test('a question that fails gives its lane back', async () => {
  const lanes = new Lanes(1);
  await expect(lanes.run(() => Promise.reject(new Error('away')))).rejects.toThrow('away');
  expect(await lanes.run(() => Promise.resolve('asked'))).toBe('asked');
});
