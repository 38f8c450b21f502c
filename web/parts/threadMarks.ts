import { toDay } from '../../core/dates/day.ts';
import type { ThreadMark } from '../../core/thread/thread.ts';

/** A mark where it is drawn: moved aside by so many pixels, or standing for several. */
export interface PlacedMark {
  readonly mark: ThreadMark;
  /** Pixels to the right of its date. */
  readonly aside: number;
  /** How many marks it stands for. */
  readonly count: number;
  /** What all of them say. */
  readonly says: string;
}

/** Squares cover each other where they are nearer than this, in pixels. */
const WIDE = 9;
/** More than so many in one place become one with a number. */
const MOST_BESIDE = 3;
const SQUARES: readonly ThreadMark['kind'][] = ['declined', 'collected', 'planned'];

/**
 * Marks so that none covers another: few in one place stand beside each other, many are one with their number, in the
 * shape of what matters most of them.
 * @param pixelsADay how wide a day is drawn, about
 */
export function placedMarks(marks: readonly ThreadMark[], pixelsADay: number): PlacedMark[] {
  const alone = (mark: ThreadMark): PlacedMark => ({ mark, aside: 0, count: 1, says: mark.says });
  const squares = marks
    .filter(({ kind }) => SQUARES.includes(kind))
    .toSorted((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : 0));
  const groups: ThreadMark[][] = [];
  for (const mark of squares) {
    const group = groups.at(-1);
    const first = group?.[0];
    const isNear = first && (toDay(mark.date) - toDay(first.date)) * pixelsADay < WIDE;
    if (group && isNear) group.push(mark);
    else groups.push([mark]);
  }
  const placed = groups.flatMap((group): PlacedMark[] => {
    if (group.length <= MOST_BESIDE)
      return group.map((mark, i) => ({
        ...alone(mark),
        aside: (i - (group.length - 1) / 2) * WIDE * (group.length > 1 ? 1 : 0),
      }));
    const worst = SQUARES.find((kind) => group.some((mark) => mark.kind === kind));
    const mark = group.find(({ kind }) => kind === worst) ?? group[0];
    return mark
      ? [{ mark, aside: 0, count: group.length, says: group.map(({ says }) => says).join('\n') }]
      : [];
  });
  return [...placed, ...marks.filter(({ kind }) => !SQUARES.includes(kind)).map(alone)];
}
