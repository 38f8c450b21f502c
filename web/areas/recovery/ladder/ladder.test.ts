import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { WorkingDays } from '../../../../core/dates/workingDay.ts';
import { DECLINE_CLASSES } from '../../../../core/recovery/declineCodes.ts';
import { STARTING_LADDERS, type StartingLadderKey } from '../../../../core/recovery/startingLadders.ts';
import { ladderSchema } from '../../../../server/recovery/ladderMessages.ts';
import { datesOf } from './DatesOfLadder.tsx';
import {
  faultsOf,
  typedFrom,
  typedOf,
  valueOf,
  withNewRung,
  withoutRung,
  withRung,
  type TypedLadder,
} from './ladderDraft.ts';

const WEEKDAYS: WorkingDays = { shift: 'next', weekend: new Set([5, 6]), holidays: new Set() };
const someStart = fc.constantFrom(...(Object.keys(STARTING_LADDERS) as StartingLadderKey[]));

/** A ladder as it is read from the server, to be changed. */
const stored = (typed: TypedLadder) =>
  typedOf({
    ...valueOf(typed),
    ...{ id: '1', version: 1, isCurrent: true, place: 0, madeOn: null, madeBy: '' },
    ...{ open: 0, older: 0, recovered: 0, givenUp: 0 },
  });

test('what is moved, ticked and taken back is as it was saved, whatever was passed on the way', () => {
  fc.assert(
    fc.property(
      someStart,
      fc.array(fc.tuple(fc.nat(), fc.integer({ min: 0, max: 60 })), { maxLength: 12 }),
      (start, moves) => {
        const saved = stored(typedFrom(start));
        let typed = saved;
        for (const [which, day] of moves) {
          const { key } = saved.policy.rungs[which % saved.policy.rungs.length] ?? { key: '' };
          typed = withRung(typed, key, { afterDays: day, tellsStaff: true, acts: { kind: 'pause' } });
          const days = typed.policy.rungs.map(({ afterDays }) => afterDays);
          expect(days).toEqual(days.toSorted((a, b) => a - b));
        }
        for (const { key, ...rung } of saved.policy.rungs)
          typed = withRung(typed, key, { tellsStaff: false, acts: undefined, ...rung } as never);
        expect(valueOf(typed)).toEqual(valueOf(saved));
      },
    ),
  );
});

test('a rung that is added can be chosen by its key, comes before the end, and goes again', () => {
  const saved = typedFrom('steady');
  const { typed, key } = withNewRung(saved);
  const added = typed.policy.rungs.find((rung) => rung.key === key);
  expect(added).toMatchObject({ afterDays: 15, retry: true, letter: true });
  expect(typed.policy.finalAfterDays).toBeGreaterThan(15);
  expect(faultsOf({ ...typed, isDefault: true }).size).toBe(0);
  const without = withoutRung(typed, key);
  expect(without.policy.rungs).toEqual(saved.policy.rungs);
  // The first of a ladder without any comes on the day of the failure.
  const bare = saved.policy.rungs.reduce((now, rung) => withoutRung(now, rung.key), saved);
  expect(faultsOf(bare).get('/policy/rungs')).toBe('Add a rung.');
  expect(withNewRung(bare).typed.policy.rungs[0]?.afterDays).toBe(0);
});

test('a fault is found at the field of the rung that it is of', () => {
  const typed = typedFrom('steady');
  const twice = withRung(typed, '2', { afterDays: 3 });
  expect([...faultsOf(twice).keys()]).toEqual(['/policy/rungs/2/afterDays']);
  const silent = typed.policy.rungs.reduce(
    (now, { key }) => withRung(now, key, { letter: false, retry: true }),
    typed,
  );
  expect([...faultsOf(silent).keys()]).toEqual(['/policy/finalAction']);
});

// Worked out on a calendar: 23 November 2026 is a Monday; people are paid on the 1st, 15th, 25th and last.
test('the dates of the sample business’s ladder around pay-day are those of a calendar', () => {
  const file = JSON.parse(
    readFileSync(new URL('../../../../demo/ladders.json', import.meta.url), 'utf8'),
  ) as {
    ladders: { name: string; serves: { plans?: string[] } }[];
  };
  const read = file.ladders.map((ladder) =>
    ladderSchema.parse({ ...ladder, serves: { ...ladder.serves, plans: ['1'] }, isDefault: false }),
  );
  const around = read.find(({ name }) => name === 'Around pay-day');
  const { policy } = around ?? {};
  if (!policy) throw new Error('The sample business has no such ladder.');
  const rungs = policy.rungs.map((rung, i) => ({ ...rung, key: String(i) }));
  const typed = { ...around, policy: { ...policy, rungs } } as TypedLadder;
  const said = datesOf(typed, '2026-11-23', WEEKDAYS).map(([date, of]) => {
    const cell = (one: (typeof DECLINE_CLASSES)[number]) => {
      const done = of[one];
      if (!done) return '-';
      return [done.tries && 'try', done.writes && 'write', done.stops && 'stop', done.ends && 'end']
        .filter(Boolean)
        .join('+');
    };
    return `${date} ${DECLINE_CLASSES.map(cell).join(' ')}`;
  });
  expect(said).toEqual([
    '2026-11-23 write - write write',
    '2026-11-24 - try+write - -',
    '2026-11-25 try try - -',
    '2026-11-28 - - write write',
    '2026-12-03 try+write try+write write write',
    '2026-12-10 - try+write+stop write+stop write+stop',
    '2026-12-15 try+write+stop - - -',
    '2026-12-17 try+write try+write write write',
    '2026-12-25 end end end end',
  ]);
});
