import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Day } from '../dates/day.ts';
import { EVERY_DAY, type WorkingDays } from '../dates/workingDay.ts';
import { checkLadder } from './checkLadder.ts';
import { DECLINE_CLASSES, type DeclineClass } from './declineCodes.ts';
import { USUAL_MANNER, type LadderPolicy, type Rung } from './ladder.ts';
import { ladderDays } from './ladderDays.ts';
import { OUTCOMES, weighOutcome } from './outcomes.ts';
import { STARTING_LADDERS, startingPolicy, type StartingLadderKey } from './startingLadders.ts';
import {
  afterRung,
  follow,
  LAST_LETTER_DAYS,
  nextStep,
  onto,
  openStanding,
  toCome,
  type Again,
  type CaseStanding,
} from './stepOfCase.ts';

const WEEKDAYS: WorkingDays = { shift: 'next', weekend: new Set([5, 6]), holidays: new Set() };
const START: Day = 20_700;
const PRACTICE = (day: Day): Again => ({ practice: true, dayAfter: () => day + 1 });

const someClasses = fc.subarray([...DECLINE_CLASSES], { minLength: 1 });
const someRung = fc.record({
  afterDays: fc.integer({ min: 0, max: 20 }),
  retry: fc.boolean(),
  letter: fc.boolean(),
  classes: fc.option(someClasses, { nil: undefined }),
});
/** Ladders as they may be saved: their rungs on days of their own, each of them doing something. */
const someLadder: fc.Arbitrary<LadderPolicy> = fc
  .record({
    rungs: fc.uniqueArray(someRung, { minLength: 1, maxLength: 8, selector: ({ afterDays }) => afterDays }),
    gap: fc.integer({ min: 1, max: 5 }),
  })
  .map(({ rungs, gap }) => {
    const ordered = rungs
      .map(({ classes, ...rung }): Rung => ({
        ...rung,
        letter: rung.letter || !rung.retry,
        ...(classes ? { classes } : {}),
      }))
      .sort((a, b) => a.afterDays - b.afterDays);
    const finalAfterDays = (ordered.at(-1)?.afterDays ?? 0) + gap;
    return { rungs: ordered, finalAction: 'leave', finalAfterDays, manner: USUAL_MANNER };
  });
/** What happens on a day before its run: another method, or an answer of some class to a charge by hand. */
const someDay = fc.record({
  answer: fc.option(fc.constantFrom(...DECLINE_CLASSES.filter((one) => one !== 'soon')), {
    nil: null,
    freq: 4,
  }),
  /** How a retry on that day is answered. */
  retry: fc.constantFrom<DeclineClass>('wait', 'wait', 'ask', 'never'),
  waits: fc.boolean(),
  wroteBefore: fc.boolean(),
});
type SomeDay = typeof someDay extends fc.Arbitrary<infer T> ? T : never;

interface Done {
  readonly day: Day;
  readonly rung: number | 'end';
  readonly tried: boolean;
}

/** Plays a case by the code under test. */
function play(ladder: LadderPolicy, opened: DeclineClass, days: readonly SomeDay[]): Done[] {
  const climbed = { ladder, calendar: EVERY_DAY };
  let standing = openStanding(climbed, opened, START, PRACTICE(START));
  const done: Done[] = [];
  days.forEach(({ answer, retry, waits, wroteBefore }, i) => {
    const day = START + i;
    if (done.at(-1)?.rung === 'end') return;
    if (answer !== null) standing = follow(standing, climbed, answer, day, { again: PRACTICE(day) });
    const looked = {
      ...{ day, hour: null, retryHourCome: true, waits, wroteBefore: true, wroteToday: wroteBefore },
      ...{ triedToday: answer !== null, begun: null },
    };
    const step = nextStep(standing, climbed, looked);
    if (step.kind === 'put off') standing = step.standing;
    if (step.kind === 'final action') done.push({ day, rung: 'end', tried: false });
    if (step.kind !== 'rung') return;
    if (step.retries)
      standing = follow(standing, climbed, retry, day, { again: PRACTICE(day), inHand: step.rung });
    done.push({ day, rung: step.rung, tried: step.retries });
    standing = afterRung(standing, climbed, step.rung, day);
  });
  return done;
}

/**
 * The same, day by day, with a mark beside every rung and nothing else: on each day the first rung that is open, wanted by
 * the class and has come is climbed, one a day; in the evening the rung of that day is struck out if the class does not want it.
 * Days on which a rung that had come was waited with are one day of the ladder.
 */
function oracle(ladder: LadderPolicy, opened: DeclineClass, days: readonly SomeDay[]): Done[] {
  // The end is the last of the rungs: it is written of, and all classes come to it.
  const steps: Rung[] = [...ladder.rungs, { afterDays: ladder.finalAfterDays, retry: false, letter: true }];
  const marks = steps.map((): 'open' | 'climbed' | 'struck' => 'open');
  const wants = (at: number, one: DeclineClass) => steps[at]?.classes?.includes(one) ?? true;
  let is = opened;
  let waited = 0;
  let stands: number | null = null;
  const done: Done[] = [];
  days.forEach(({ answer, retry, waits, wroteBefore }, after) => {
    if (marks.at(-1) === 'climbed') return;
    if (answer !== null && answer !== is) {
      waited += after - (stands ?? after);
      [is, stands] = [answer, null];
    }
    const at = marks.findIndex((mark, place) => mark === 'open' && wants(place, is));
    const rung = steps[at];
    if (rung && rung.afterDays <= after - waited) {
      stands ??= after;
      if (!waits && rung.letter && wroteBefore) {
        waited += after - stands;
        stands = after + 1;
      } else if (!waits) {
        // One before it that this class does not want is behind it now.
        marks.fill('struck', 0, at);
        marks[at] = 'climbed';
        const tried = rung.retry && (is === 'wait' || is === 'soon') && answer === null;
        done.push({ day: START + after, rung: at < ladder.rungs.length ? at : 'end', tried });
        waited += after - stands;
        stands = null;
        if (tried) is = retry;
      }
    }
    if (stands !== null && stands <= after) return;
    const ofToday = steps.findIndex(({ afterDays }) => afterDays === after - waited);
    if (marks[ofToday] === 'open' && !wants(ofToday, is)) marks[ofToday] = 'struck';
  });
  return done;
}

describe('the step of a case', () => {
  test('climbs, whatever happens on its way, what one finds who goes through it day by day', () => {
    fc.assert(
      fc.property(
        someLadder,
        fc.constantFrom<DeclineClass>('wait', 'ask', 'never'),
        fc.array(someDay, { minLength: 5, maxLength: 40 }),
        (ladder, opened, days) => {
          expect(play(ladder, opened, days)).toEqual(oracle(ladder, opened, days));
        },
      ),
      { numRuns: 2_000 },
    );
  });

  test('of one class from first to last, with nothing in its way, is what its ladder shows beforehand', () => {
    fc.assert(
      fc.property(someLadder, fc.constantFrom<DeclineClass>('wait', 'ask', 'never'), (ladder, one) => {
        const quiet = Array.from({ length: 40 }, () => ({
          ...{ answer: null, retry: one, waits: false, wroteBefore: false },
        }));
        const { rungs, finalOn } = ladderDays(ladder, START, one, EVERY_DAY);
        const shown = [...rungs, { rung: 'end', on: finalOn }];
        expect(play(ladder, one, quiet).map(({ day, rung }) => ({ rung, on: day }))).toEqual(shown);
      }),
    );
  });

  test('waits, is set aside, and keeps to its hours, in this order, before anything is done', () => {
    const ladder: LadderPolicy = {
      ...startingPolicy('steady'),
      manner: { ...USUAL_MANNER, fromHour: 9 },
    };
    const climbed = { ladder, calendar: EVERY_DAY };
    const standing: CaseStanding = {
      ...openStanding(climbed, 'wait', START, PRACTICE(START)),
      ...{ lastRung: 0, lastOn: START, nextRung: 1, nextOn: START + 3 },
    };
    const looked = {
      ...{ day: START + 3, hour: 9, retryHourCome: true, waits: false, wroteBefore: true },
      ...{ wroteToday: false, triedToday: false, begun: null },
    };
    expect(nextStep(standing, climbed, looked)).toMatchObject({ kind: 'rung', rung: 1, retries: true });
    expect(nextStep(standing, climbed, { ...looked, hour: 8 })).toEqual({
      kind: 'nothing',
      because: 'the hour',
    });
    expect(nextStep(standing, climbed, { ...looked, waits: true })).toEqual({
      kind: 'nothing',
      because: 'it waits',
    });
    const aside = { ...standing, asideUntil: START + 4 };
    expect(nextStep(aside, climbed, looked)).toEqual({ kind: 'nothing', because: 'set aside' });
    expect(nextStep(aside, climbed, { ...looked, day: START + 4 }).kind).toBe('rung');
    expect(nextStep(standing, climbed, { ...looked, triedToday: true })).toMatchObject({
      ...{ kind: 'rung', retries: false, sparesRetry: true },
    });
    expect(nextStep(standing, climbed, { ...looked, begun: 1, wroteToday: true })).toMatchObject({
      ...{ kind: 'put off', standing: { nextOn: START + 4 } },
    });
    // What was begun is gone through with, also where somebody set the case aside meanwhile.
    expect(nextStep(aside, climbed, { ...looked, begun: 1 })).toMatchObject({
      kind: 'rung',
      rung: 1,
      retries: true,
    });
  });

  test('writes before the end, whatever became of its letters, and ends only days after that', () => {
    // Who was of one class on the days of the other's letters, and of the other on those of the first, got none of them.
    const ladder: LadderPolicy = {
      ...startingPolicy('steady'),
      rungs: [
        { afterDays: 0, retry: false, letter: true, classes: ['ask', 'never', 'soon'] },
        { afterDays: 5, retry: false, letter: true, classes: ['wait'] },
      ],
      finalAfterDays: 7,
    };
    expect(checkLadder(ladder)).toEqual([]);
    const climbed = { ladder, calendar: EVERY_DAY };
    const opened = openStanding(climbed, 'wait', START, PRACTICE(START));
    const turned = follow(opened, climbed, 'ask', START + 2, { again: PRACTICE(START + 2) });
    expect(turned).toMatchObject({ nextRung: 2, nextOn: START + 7 });
    const looked = {
      ...{ day: START + 7, hour: null, retryHourCome: true, waits: false, wroteBefore: false },
      ...{ wroteToday: false, triedToday: false, begun: null },
    };
    const step = nextStep(turned, climbed, looked);
    expect(step).toMatchObject({ kind: 'last letter', standing: { nextOn: START + 7 + LAST_LETTER_DAYS } });
    expect(nextStep(turned, climbed, { ...looked, wroteBefore: true }).kind).toBe('final action');
    const leaves = { ...climbed, ladder: { ...ladder, finalAction: 'leave' as const } };
    expect(nextStep(turned, leaves, looked).kind).toBe('final action');
  });

  test('asks a bank that was away again after the hours of its ladder, once in practice, and then climbs', () => {
    const climbed = { ladder: startingPolicy('steady'), calendar: EVERY_DAY };
    const clock: Again = { practice: false, dayAfter: () => START };
    let standing = openStanding(climbed, 'soon', START, clock);
    expect(standing).toMatchObject({ retryOn: START, retried: 1, nextRung: 0, nextOn: START + 1 });
    standing = follow(standing, climbed, 'soon', START, { again: clock });
    expect(standing).toMatchObject({ retryOn: START, retried: 2 });
    standing = follow(standing, climbed, 'soon', START, { again: clock });
    expect(standing.retryOn).toBeNull();
    const practised = openStanding(climbed, 'soon', START, PRACTICE(START));
    expect(practised).toMatchObject({ retryOn: START + 1, nextOn: START + 1 });
    expect(follow(practised, climbed, 'soon', START + 1, { again: PRACTICE(START + 1) }).retryOn).toBeNull();
    // A card that turns out to be lost is asked for, not tried.
    expect(follow(practised, climbed, 'never', START + 1, { again: PRACTICE(START + 1) })).toMatchObject({
      ...{ retryOn: null, declineClass: 'never', nextRung: 0 },
    });
  });

  test('that has waited long goes on by another version as far from its end as it stood, and does not end at once', () => {
    const climbed = { ladder: startingPolicy('steady'), calendar: EVERY_DAY };
    const opened = openStanding(climbed, 'wait', START, PRACTICE(START));
    const stood = afterRung(opened, climbed, 0, START);
    // Its rung of day 3 stands due since then, since it was set aside: for the new ladder it is day 3 still.
    const moved = onto(stood, { ...climbed, ladder: startingPolicy('brisk') }, START + 43);
    expect(moved).toMatchObject({ waited: 40, nextRung: 3, nextOn: START + 44 });
    expect(toCome(moved, { ...climbed, ladder: startingPolicy('brisk') }).finalOn).toBe(START + 47);
  });

  test('goes on by another version from where it stands: nothing is climbed twice, nothing on a day that had its rung', () => {
    fc.assert(
      fc.property(someLadder, someLadder, fc.integer({ min: 0, max: 20 }), (first, second, moved) => {
        const quiet = Array.from({ length: moved }, () => ({
          ...{ answer: null, retry: 'wait' as const, waits: false, wroteBefore: false },
        }));
        const day = START + moved;
        const done = play(first, 'wait', quiet);
        const standing: CaseStanding = {
          ...openStanding({ ladder: first, calendar: EVERY_DAY }, 'wait', START, PRACTICE(START)),
          ...{ lastRung: done.length - 1, lastOn: done.at(-1)?.day ?? null, nextOn: day },
        };
        const after = onto(standing, { ladder: second, calendar: EVERY_DAY }, day);
        const shown = ladderDays(second, START, 'wait', EVERY_DAY);
        const tocome = shown.rungs.find(({ on }) => on >= day);
        expect(after).toMatchObject({
          lastRung: -1,
          nextRung: tocome?.rung ?? second.rungs.length,
          nextOn: tocome?.on ?? Math.max(shown.finalOn, day),
        });
      }),
    );
  });
});

describe('the days of a ladder', () => {
  test('of every ladder to start from pass its own check, and write before the end, whatever the decline', () => {
    for (const key of Object.keys(STARTING_LADDERS) as StartingLadderKey[]) {
      const policy = startingPolicy(key);
      expect(checkLadder(policy), key).toEqual([]);
      for (const one of DECLINE_CLASSES) {
        const { rungs, finalOn } = ladderDays(policy, START, one, WEEKDAYS);
        expect(
          rungs.some(({ rung }) => policy.rungs[rung]?.letter),
          `${key} ${one}`,
        ).toBe(true);
        expect(rungs.every(({ on }) => on < finalOn)).toBe(true);
      }
    }
  });

  test('wait for a pay-day near them and for a working day, come one a day, and end after the last', () => {
    const payDays = fc.uniqueArray(fc.integer({ min: 1, max: 31 }), { maxLength: 4 });
    const manner = fc.record({
      payDays,
      payDayWithin: fc.integer({ min: 0, max: 10 }),
      workingDays: fc.boolean(),
    });
    fc.assert(
      fc.property(someLadder, manner, fc.integer({ min: START, max: START + 400 }), (plain, how, opened) => {
        const ladder = { ...plain, manner: { ...USUAL_MANNER, ...how } };
        const { rungs, finalOn } = ladderDays(ladder, opened, 'wait', WEEKDAYS);
        let last = opened - 1;
        for (const { rung, on } of rungs) {
          const own = opened + (ladder.rungs[rung]?.afterDays ?? 0);
          expect(on).toBeGreaterThan(last);
          expect(on).toBeGreaterThanOrEqual(own);
          if (!ladder.rungs[rung]?.retry) expect(on).toBe(Math.max(own, last + 1));
          last = on;
        }
        expect(finalOn).toBeGreaterThan(last);
        // Who must mend the card is written to on the days themselves: a pay-day mends nothing.
        const asked = ladderDays(ladder, opened, 'ask', WEEKDAYS).rungs;
        expect(asked.map(({ on }) => on)).toEqual(
          asked.map(({ rung }) => opened + (ladder.rungs[rung]?.afterDays ?? 0)),
        );
      }),
    );
  });

  // 2027-01-04 is a Monday. Worked out on a calendar.
  test.each([
    ['a pay-day within reach', '2027-01-23', 2, '2027-01-25'],
    ['a pay-day on a Sunday is met on the Monday', '2027-01-27', 2, '2027-02-01'],
    ['no pay-day within reach, but a weekend', '2027-01-07', 2, '2027-01-11'],
    ['a day that is one already', '2027-01-23', 2, '2027-01-25'],
  ])('%s', (_, opened, afterDays, expected) => {
    const day = (text: string) => Date.parse(`${text}T00:00:00Z`) / 86_400_000;
    const ladder: LadderPolicy = {
      ...{ rungs: [{ afterDays, retry: true, letter: false }], finalAction: 'leave', finalAfterDays: 20 },
      manner: { ...USUAL_MANNER, payDays: [25, 31], payDayWithin: 4, workingDays: true },
    };
    expect(ladderDays(ladder, day(opened), 'wait', WEEKDAYS).rungs).toEqual([{ rung: 0, on: day(expected) }]);
  });
});

describe('a ladder is refused', () => {
  const rung = (afterDays: number, more: Partial<Rung> = {}): Rung => ({
    ...{ afterDays, retry: false, letter: true, ...more },
  });
  const ladder = (rungs: Rung[], more: Partial<LadderPolicy> = {}): LadderPolicy => ({
    ...{ rungs, finalAction: 'lapse', finalAfterDays: 14, manner: USUAL_MANNER, ...more },
  });
  const retries = (n: number) => Array.from({ length: n }, (_, i) => rung(i + 1, { retry: true }));
  test.each<[string, LadderPolicy, string[]]>([
    ['that ends with no letter', ladder([rung(1, { letter: false, retry: true })]), ['/finalAction']],
    [
      'that is silent to who lost their card',
      ladder([rung(0, { classes: ['wait', 'soon', 'ask'] })]),
      ['/finalAction'],
    ],
    ['with a rung that does nothing', ladder([rung(0), rung(2, { letter: false })]), ['/rungs/1']],
    [
      'with a retry of lost cards alone',
      ladder([rung(0), rung(2, { retry: true, classes: ['never'] })]),
      ['/rungs/1/retry'],
    ],
    ['with two rungs of one day', ladder([rung(2), rung(2)]), ['/rungs/1/afterDays']],
    ['out of order', ladder([rung(3), rung(2)]), ['/rungs/1/afterDays']],
    ['that ends before its last rung', ladder([rung(0), rung(14)]), ['/finalAfterDays']],
    ['that tries too often', ladder([rung(0), ...retries(15)], { finalAfterDays: 40 }), ['/rungs/15/retry']],
    [
      'with a task that says nothing',
      ladder([rung(0, { acts: { kind: 'task', says: ' ' } })]),
      ['/rungs/0/acts/says'],
    ],
    [
      'whose hours do not rise',
      ladder([rung(0)], { manner: { ...USUAL_MANNER, soonHours: [4, 4] } }),
      ['/manner/soonHours/1'],
    ],
  ])('%s', (_, policy, pointers) => {
    expect(checkLadder(policy).map(({ pointer }) => pointer)).toEqual(pointers);
  });

  test('and not where it is whole: silent where nobody can lapse, two rungs of one day for two declines', () => {
    expect(checkLadder(ladder([rung(1, { letter: false, retry: true })], { finalAction: 'leave' }))).toEqual(
      [],
    );
    expect(
      checkLadder(ladder([rung(2, { classes: ['wait', 'soon'] }), rung(2, { classes: ['ask', 'never'] })])),
    ).toEqual([]);
    expect(checkLadder(ladder([rung(0), ...retries(14)], { finalAfterDays: 40 }))).toEqual([]);
  });
});

test('every outcome of a charge is weighed, and only one without an answer makes a case wait', () => {
  const weighed = OUTCOMES.map((one) => [one, weighOutcome(one)] as const);
  expect(weighed.filter(([, is]) => is === 'waits').map(([one]) => one)).toEqual([
    ...['next method', 'under way', 'waits for the cardholder', 'waits for its gateway', 'refused'],
  ]);
  expect(weighed.every(([, is]) => is !== undefined)).toBe(true);
});
