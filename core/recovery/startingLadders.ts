import { USUAL_MANNER, type LadderPolicy, type RetryManner, type Rung } from './ladder.ts';

const write = (afterDays: number): Rung => ({ afterDays, retry: false, letter: true });
const retryAndWrite = (afterDays: number): Rung => ({ afterDays, retry: true, letter: true });
const retryAlone = (afterDays: number): Rung => ({
  ...{ afterDays, retry: true, letter: false, classes: ['wait', 'soon'] },
});

interface StartingLadder {
  readonly name: string;
  /** What it is after. */
  readonly aim: string;
  readonly says: string;
  readonly rungs: readonly Rung[];
  readonly finalAfterDays: number;
  readonly manner?: Partial<RetryManner>;
}

/** Ladders to start from, by what they are after. Each writes on the day of the failure, and leaves days between its last letter and the end. */
export const STARTING_LADDERS = {
  steady: {
    name: 'Steady',
    aim: 'A bit of both',
    says: 'Letters on days 0, 3, 7 and 12, retries on days 3, 7 and 12; the end on day 14.',
    rungs: [write(0), retryAndWrite(3), retryAndWrite(7), retryAndWrite(12)],
    finalAfterDays: 14,
  },
  brisk: {
    name: 'Brisk',
    aim: 'All settled before the next renewal',
    says: 'Letters on days 0, 2 and 5, retries on days 1, 2, 4 and 5; the end on day 7.',
    rungs: [write(0), retryAlone(1), retryAndWrite(2), retryAlone(4), retryAndWrite(5)],
    finalAfterDays: 7,
  },
  patient: {
    name: 'Patient',
    aim: 'Most money back',
    says: 'Letters on days 0, 5, 12, 21 and 28, retries on days 5, 12, 21 and 28; the end on day 35.',
    rungs: [write(0), retryAndWrite(5), retryAndWrite(12), retryAndWrite(21), retryAndWrite(28)],
    finalAfterDays: 35,
  },
  quiet: {
    name: 'Quiet',
    aim: 'Fewest letters',
    says: 'Letters on days 0 and 14, retries on days 3, 7, 11 and 14; the end on day 21.',
    rungs: [write(0), retryAlone(3), retryAlone(7), retryAlone(11), retryAndWrite(14)],
    finalAfterDays: 21,
  },
  payday: {
    name: 'Around pay-day',
    aim: 'When there is money in the account',
    says: 'Letters on days 0, 10 and 24; retries wait for the 1st, 15th, 25th or last day of the month, and for a working day.',
    rungs: [write(0), retryAlone(2), retryAndWrite(10), retryAlone(17), retryAndWrite(24)],
    finalAfterDays: 32,
    manner: { payDays: [1, 15, 25, 31], payDayWithin: 6, workingDays: true },
  },
  letters: {
    name: 'Letters alone',
    aim: 'No retries: who pays by hand',
    says: 'Letters on days 0, 7 and 14 and no retries: the customer pays by the link; the end on day 21.',
    rungs: [write(0), write(7), write(14)],
    finalAfterDays: 21,
  },
} as const satisfies Record<string, StartingLadder>;
export type StartingLadderKey = keyof typeof STARTING_LADDERS;

/** The policy of a ladder to start from. */
export function startingPolicy(key: StartingLadderKey): LadderPolicy {
  const { rungs, finalAfterDays, manner }: StartingLadder = STARTING_LADDERS[key];
  return { rungs, finalAfterDays, finalAction: 'lapse', manner: { ...USUAL_MANNER, ...manner } };
}

/** The ladder that a business begins with. */
export const DEFAULT_LADDER = startingPolicy('steady');
