import type { Closed } from './messages.ts';

const SAYS: Readonly<Record<Exclude<Closed, null>, string>> = {
  off: 'off',
  over: 'over',
  full: 'no places left',
  nothing: 'nothing to sell',
};

/** What is looked at to know whether one can join on a page. */
export interface Openness {
  readonly isOn: boolean;
  readonly until: string | null;
  readonly places: number | null;
  readonly joined: number;
  /** How many of its rates can be had still. */
  readonly offered: number;
}

/** Why nobody can join on a page on a day, or null where one can. */
export function closedOn({ isOn, until, places, joined, offered }: Openness, today: string): Closed {
  if (!isOn) return 'off';
  if (until !== null && until < today) return 'over';
  if (places !== null && joined >= places) return 'full';
  return offered === 0 ? 'nothing' : null;
}

/** The same in words, for lists. */
export const sayClosed = (closed: Closed): string => (closed === null ? 'on' : SAYS[closed]);
