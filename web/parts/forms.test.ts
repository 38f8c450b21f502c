import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { ThreadMark } from '../../core/thread/thread.ts';
import { daysOf } from './list/DatedFilter.tsx';
import { liveFaults, nearestAt } from './liveFaults.ts';
import { withoutSecrets } from './keptDraft.ts';
import { placedMarks } from './threadMarks.ts';

const refused = (pointer: string, sent: unknown) => ({
  problem: { faults: [{ pointer, detail: 'No.' }] },
  sent,
});

test('a fault of the server stands until its own field is typed anew, whatever else is', () => {
  const sent = { customer: { name: 'Ada', email: 'a@b.example' }, codes: ['SPRING'] };
  const fault = refused('/codes/0', sent);
  expect(liveFaults(fault, { ...sent, customer: { name: 'Bea' } })).toHaveLength(1);
  expect(liveFaults(fault, { ...sent, codes: ['AUTUMN'] })).toEqual([]);
  expect(liveFaults(fault, { customer: sent.customer }), 'taken out').toEqual([]);
  // What would stand where nothing is: it is mended by whatever comes into that place.
  const missing = refused('/card/expires', { card: { number: '1' } });
  expect(liveFaults(missing, { card: { number: '1' } })).toHaveLength(1);
  expect(liveFaults(missing, { card: { number: '2' } })).toEqual([]);
  expect(liveFaults(null, sent)).toEqual([]);
});

test('a pointer leads to what is there, or to the nearest above it, for any document', () => {
  fc.assert(
    fc.property(fc.jsonValue(), fc.array(fc.string(), { maxLength: 4 }), (document, steps) => {
      const pointer = steps.map((step) => `/${step.replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
      const found = JSON.stringify(nearestAt(document, pointer));
      expect(JSON.stringify(document)).toContain(found);
      expect(liveFaults(refused(pointer, document), document)).toHaveLength(1);
    }),
  );
});

test('cards and passwords are never kept with a draft, however deep they stand', () => {
  const draft = {
    name: 'Ada',
    card: { number: '9171000000000012', expires: '11/30' },
    server: { host: 'smtp.post.example', password: 'secret words' },
    extras: [{ key: 'frames', quantity: 2 }],
  };
  const kept = JSON.stringify(withoutSecrets(draft));
  expect(kept).not.toMatch(/9171|secret words/);
  expect(JSON.parse(kept)).toEqual({
    name: 'Ada',
    server: { host: 'smtp.post.example' },
    extras: [{ key: 'frames', quantity: 2 }],
  });
});

test('no mark of a thread covers another: they stand beside each other, or are one with its number', () => {
  const kinds = fc.constantFrom<ThreadMark['kind']>('collected', 'planned', 'declined', 'notice', 'end');
  const marks = fc.array(
    fc.record({ kind: kinds, day: fc.integer({ min: 0, max: 200 }) }).map(({ kind, day }): ThreadMark => ({
      kind,
      date: formatDay(toDay('2027-01-01') + day),
      says: `${kind} ${day}`,
    })),
    { maxLength: 60 },
  );
  fc.assert(
    fc.property(marks, fc.double({ min: 0.3, max: 9, noNaN: true }), (all, pixelsADay) => {
      const placed = placedMarks(all, pixelsADay);
      expect(placed.reduce((sum, { count }) => sum + count, 0)).toBe(all.length);
      for (const { says } of all) expect(placed.some((one) => one.says.includes(says))).toBe(true);
      const many = placed.filter(({ count }) => count > 1);
      for (const { mark, says } of many)
        if (says.includes('declined')) expect(mark.kind, 'what failed is never hidden').toBe('declined');
      // Those of one place stand apart by the width of a square.
      const beside = placed.filter(({ aside }) => aside !== 0);
      for (const one of beside)
        for (const other of beside)
          if (one !== other && one.mark.date === other.mark.date)
            expect(Math.abs(one.aside - other.aside)).toBeGreaterThanOrEqual(9);
    }),
  );
});

test('this week ends on its Sunday, whatever day it is', () => {
  fc.assert(
    fc.property(fc.integer({ min: 15_000, max: 40_000 }), (day) => {
      const today = formatDay(day);
      const { from, until } = daysOf('week', today);
      expect(from).toBe(today);
      expect(new Date(`${until}T00:00:00Z`).getUTCDay()).toBe(0);
      expect(toDay(until) - day).toBeLessThan(7);
    }),
  );
});
