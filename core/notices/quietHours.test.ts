import fc from 'fast-check';
import { expect, test } from 'vitest';
import { minuteOf, quietWait } from './quietHours.ts';

test('a letter waits to the end of the quiet hours, over midnight too', () => {
  const [from, to] = [minuteOf('21:00'), minuteOf('08:00')];
  expect(quietWait(minuteOf('20:59'), from, to)).toBe(0);
  expect(quietWait(minuteOf('21:00'), from, to)).toBe(660);
  expect(quietWait(minuteOf('23:10'), from, to)).toBe(530);
  expect(quietWait(minuteOf('07:59'), from, to)).toBe(1);
  expect(quietWait(minuteOf('08:00'), from, to)).toBe(0);
});

test('whenever it waits, it goes out exactly at the end, and never waits then', () => {
  const minute = fc.integer({ min: 0, max: 1439 });
  fc.assert(
    fc.property(minute, minute, minute, (now, from, to) => {
      const wait = quietWait(now, from, to);
      expect(quietWait((now + wait) % 1440, from, to)).toBe(0);
      if (wait > 0) expect((now + wait) % 1440).toBe(to);
    }),
  );
});
