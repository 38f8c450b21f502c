import type { Mend, ReadinessLine } from './messages.ts';

/** What a look finds: something missing, or in a few words that it is in order. */
export type Finding = ReadinessLine | string;
/** A mend in a place of its own. */
export const there = (says: string, path: string): Mend => ({ kind: 'there', says, path });
/** A mend by one click on the list. */
export const here = (says: string, mend: string): Mend => ({ kind: 'here', says, mend });
/** Something that is missing. */
export const line = (
  key: string,
  blocks: boolean,
  says: string,
  why: string,
  ...mends: Mend[]
): ReadinessLine => ({
  key,
  blocks,
  says,
  why,
  mends,
});
