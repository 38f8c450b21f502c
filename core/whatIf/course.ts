import type { Day } from '../dates/day.ts';
import {
  follow,
  afterRung,
  nextStep,
  openStanding,
  type Again,
  type CaseStanding,
  type Climbed,
} from '../recovery/stepOfCase.ts';
import type { DeclineClass } from '../recovery/declineCodes.ts';
import { mendCell, RETRIES, retryCell } from './cells.ts';

/**
 * What a ladder would do for a case that nothing mends, as the chances that it gives: one after another the retries, and
 * the days on which the customer may mend it.
 */
export interface Course {
  /** The cell of each chance; those of mending stand after all of {@link RETRIES}. */
  readonly cells: readonly number[];
  /** Which of the chances are retries. */
  readonly retriesAt: readonly number[];
  /** Days since the payment failed, of each chance. */
  readonly days: readonly number[];
  /** Retries and letters until each chance, it included. */
  readonly retries: readonly number[];
  readonly letters: readonly number[];
  /** In all, if nothing mends it. */
  readonly allRetries: number;
  readonly allLetters: number;
  /** Days since the payment failed after which it is given up. */
  readonly ends: number;
}

/** Where chances of mending stand, after those of retries. */
export const FIRST_MEND = RETRIES.size;

/** What has already happened to a case. */
export interface Sofar {
  readonly from: Day;
  readonly failedOn: Day;
  readonly retries: number;
  readonly letters: number;
  readonly lastLetterOn: Day | null;
}

/** No ladder goes on for longer. */
export const LONGEST = 500;

/** The course of a payment that fails on a day. */
export function courseFrom(climbed: Climbed, declineClass: DeclineClass, failedOn: Day): Course {
  const again: Again = { practice: true, dayAfter: () => failedOn + 1 };
  return courseOf(openStanding(climbed, declineClass, failedOn, again), climbed, {
    ...{ from: failedOn, failedOn, retries: 0, letters: 0, lastLetterOn: null },
  });
}

/** The course of a case from a day on: what climbs the cases is asked what comes, as though each retry were declined alike. */
export function courseOf(begun: CaseStanding, climbed: Climbed, so: Sofar): Course {
  return new Walk(begun, climbed, so).course();
}

class Walk {
  readonly #climbed: Climbed;
  readonly #so: Sofar;
  #standing: CaseStanding;
  #day: Day;
  #retries: number;
  #letters: number;
  #lastLetterOn: Day | null;
  #triedOn: Day | null = null;
  readonly #cells: number[] = [];
  readonly #days: number[] = [];
  readonly #retriesBy: number[] = [];
  readonly #lettersBy: number[] = [];
  readonly #retriesAt: number[] = [];
  readonly #again: Again = { practice: true, dayAfter: () => this.#day + 1 };

  constructor(begun: CaseStanding, climbed: Climbed, so: Sofar) {
    this.#climbed = climbed;
    this.#so = so;
    this.#standing = begun;
    this.#day = so.from;
    ({ retries: this.#retries, letters: this.#letters, lastLetterOn: this.#lastLetterOn } = so);
  }

  course(): Course {
    const last = this.#so.from + LONGEST;
    while (this.#day < last && !this.#isOver()) {
      const { declineClass } = this.#standing;
      const since = this.#lastLetterOn === null ? null : this.#day - this.#lastLetterOn;
      this.#chance(FIRST_MEND + mendCell(declineClass, this.#letters, since));
      this.#day += 1;
    }
    return {
      ...{ cells: this.#cells, days: this.#days, retries: this.#retriesBy, letters: this.#lettersBy },
      retriesAt: this.#retriesAt,
      allRetries: this.#retries - this.#so.retries,
      allLetters: this.#letters - this.#so.letters,
      ends: this.#day - this.#so.failedOn,
    };
  }

  /** Does what the day brings; whether that is the end. */
  #isOver(): boolean {
    const day = this.#day;
    const wroteBefore = this.#letters > 0;
    while (this.#standing.nextOn <= day || (this.#standing.retryOn ?? Infinity) <= day) {
      const step = nextStep(this.#standing, this.#climbed, {
        ...{ day, hour: null, retryHourCome: true, waits: false, begun: null, wroteBefore },
        wroteToday: this.#lastLetterOn === day,
        triedToday: this.#triedOn === day,
      });
      if (step.kind === 'final action') return true;
      if (step.kind === 'nothing') return false;
      if (step.kind === 'last letter') this.#write();
      if (step.kind === 'last letter' || step.kind === 'put off') this.#standing = step.standing;
      else if (step.kind === 'early retry') this.#try(null);
      else {
        if (step.retries) this.#try(step.rung);
        if (step.does.letter) this.#write();
        this.#standing = afterRung(this.#standing, this.#climbed, step.rung, day);
      }
    }
    return false;
  }

  #try(inHand: number | null): void {
    const day = this.#day;
    const { declineClass } = this.#standing;
    this.#retries += 1;
    this.#triedOn = day;
    this.#retriesAt.push(this.#cells.length);
    this.#chance(retryCell(declineClass, day, day - this.#so.failedOn, this.#retries));
    const answer = { again: this.#again, inHand };
    this.#standing = follow(this.#standing, this.#climbed, declineClass, day, answer);
  }

  #write(): void {
    this.#letters += 1;
    this.#lastLetterOn = this.#day;
  }

  #chance(cell: number): void {
    this.#cells.push(cell);
    this.#days.push(this.#day - this.#so.failedOn);
    this.#retriesBy.push(this.#retries - this.#so.retries);
    this.#lettersBy.push(this.#letters - this.#so.letters);
  }
}
