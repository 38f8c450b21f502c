/** How long lies between two parts of an invoice. */
export const PART_INTERVALS = { P1W: 'every week', P2W: 'every two weeks', P1M: 'every month' } as const;
export type PartInterval = keyof typeof PART_INTERVALS;
