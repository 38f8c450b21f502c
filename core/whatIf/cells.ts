import { civilOf, type Day } from '../dates/day.ts';
import { daysInMonth, monthOf } from '../dates/month.ts';
import { weekdayIndex } from '../dates/weekday.ts';
import { DECLINE_CLASSES, type DeclineClass } from '../recovery/declineCodes.ts';

/**
 * What the chances of the model depend on. Everything that is alike in all of it is one cell, with one chance: a retry is
 * in one of {@link RETRY_CELLS}, a day on which the customer may mend it in one of {@link MEND_CELLS}.
 */
export interface Effect {
  /** What it is of, and which value of that; as it is said. */
  readonly of: string;
  readonly value: string;
  /** What is taken to be so before anything is known: its mean and standard deviation, in log-odds. */
  readonly prior: readonly [mean: number, deviation: number];
}

/** Each part of what a cell is told apart by: its effects in their order. */
interface Part {
  readonly of: string;
  readonly values: readonly string[];
  readonly priors: readonly (readonly [number, number])[];
}

const alike = (count: number, deviation: number) =>
  Array.from({ length: count }, () => [0, deviation] as const);

export const MONTH_PARTS = ['1st–3rd', '4th–9th', '10th–14th', '15th–19th', '20th–24th', '25th–last'];
const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

const RETRY_PARTS: readonly Part[] = [
  {
    of: 'why',
    values: ['for want of money, or refused', 'the bank was away'],
    priors: [
      [0, 0.3],
      [1.6, 0.7],
    ],
  },
  { of: 'day of the month', values: MONTH_PARTS, priors: alike(6, 0.6) },
  { of: 'weekday', values: WEEKDAYS, priors: alike(7, 0.3) },
  { of: 'days since it failed', values: ['0–1', '2–4', '5–9', '10–19', '20 or more'], priors: alike(5, 0.4) },
  {
    of: 'retry',
    values: ['first', 'second', 'third', 'fourth or later'],
    priors: [
      [0.1, 0.4],
      [0, 0.4],
      [-0.2, 0.4],
      [-0.5, 0.4],
    ],
  },
];

const MEND_PARTS: readonly Part[] = [
  {
    of: 'why',
    values: [
      'for want of money, or refused',
      'the bank was away',
      'the customer must mend it',
      'never again',
    ],
    priors: [
      [-0.1, 0.5],
      [-0.3, 0.5],
      [0.2, 0.5],
      [0, 0.5],
    ],
  },
  {
    of: 'days since the last letter',
    values: ['no letter yet', 'the same day', '1', '2–3', '4–6', '7–13', '14 or more'],
    priors: [
      [-1.2, 0.5],
      [0.6, 0.5],
      [0.5, 0.5],
      [0, 0.5],
      [-0.4, 0.5],
      [-0.9, 0.5],
      [-1.4, 0.5],
    ],
  },
  {
    of: 'letters so far',
    values: ['none', 'one', 'two', 'three', 'four or more'],
    priors: [
      [0, 0.1],
      [0.2, 0.4],
      [0, 0.4],
      [-0.2, 0.4],
      [-0.4, 0.4],
    ],
  },
];

/** What each chance begins from, in log-odds: about one retry in four succeeds, about one customer in thirty mends it on a day. */
const RETRY_BASE = [-1.1, 1] as const;
const MEND_BASE = [-3.4, 1] as const;

/** The cells of one kind: which effects each is made of. */
export class Cells {
  /** Of the model; the first is what every chance begins from. */
  readonly effects: readonly Effect[];
  readonly size: number;
  readonly #parts: readonly Part[];

  constructor(base: readonly [number, number], parts: readonly Part[]) {
    this.#parts = parts;
    this.effects = [
      { of: 'all', value: '', prior: base },
      ...parts.flatMap(({ of, values, priors }) =>
        values.map((value, i) => ({ of, value, prior: priors[i] ?? ([0, 0.5] as const) })),
      ),
    ];
    this.size = parts.reduce((size, { values }) => size * values.length, 1);
  }

  /** The cell of these values, one for each part, by their places. */
  at(places: readonly number[]): number {
    return this.#parts.reduce((cell, { values }, i) => cell * values.length + (places[i] ?? 0), 0);
  }

  /** The effects that a cell's chance is made of, by their places. */
  effectsOf(cell: number): readonly number[] {
    const found: number[] = [];
    let rest = cell;
    let end = this.effects.length;
    for (const { values } of this.#parts.toReversed()) {
      end -= values.length;
      found.push(end + (rest % values.length));
      rest = Math.floor(rest / values.length);
    }
    return [0, ...found.reverse()];
  }
}

export const RETRIES = new Cells(RETRY_BASE, RETRY_PARTS);
export const MENDS = new Cells(MEND_BASE, MEND_PARTS);

/** The cell of a retry on a day. */
export function retryCell(declineClass: DeclineClass, on: Day, daysSince: number, retry: number): number {
  return retryCellBut(declineClass, daysSince, retry) + cellOfDay(on);
}

/** What the cell of a retry is but for its day: {@link cellOfDay} of that is added to it. */
export function retryCellBut(declineClass: DeclineClass, daysSince: number, retry: number): number {
  const why = declineClass === 'soon' ? 1 : 0;
  return RETRIES.at([why, 0, 0, upTo(daysSince, [1, 4, 9, 19]), Math.min(retry, 4) - 1]);
}

/** What the day of a retry adds to its cell. */
export function cellOfDay(on: Day): number {
  return RETRIES.at([0, partOfMonth(on), weekdayIndex(on), 0, 0]);
}

/** The cell of a day on which a customer may mend it; `sinceLetter` is null before the first letter. */
export function mendCell(declineClass: DeclineClass, letters: number, sinceLetter: number | null): number {
  return MENDS.at([
    DECLINE_CLASSES.indexOf(declineClass),
    sinceLetter === null ? 0 : 1 + upTo(sinceLetter, [0, 1, 3, 6, 13]),
    Math.min(letters, 4),
  ]);
}

/** Which of {@link MONTH_PARTS} a day is in. */
export function partOfMonth(day: Day): number {
  return upTo(civilOf(day).date, [3, 9, 14, 19, 24, daysInMonth(monthOf(day))]);
}

function upTo(value: number, bounds: readonly number[]): number {
  const at = bounds.findIndex((bound) => value <= bound);
  return at < 0 ? bounds.length : at;
}
