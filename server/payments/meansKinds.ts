/** By what money comes or goes where no gateway moves it. */
export const MEANS_BY_HAND = ['transfer', 'cash', 'cheque', 'other'] as const;

export type MeansByHand = (typeof MEANS_BY_HAND)[number];

/** By what money comes or goes. */
export type Means = 'gateway' | MeansByHand;

/** What each way of money by hand is called. */
export const MEANS_NAMES: Readonly<Record<MeansByHand, string>> = {
  transfer: 'Bank transfer',
  cash: 'Cash',
  cheque: 'Cheque',
  other: 'Another way',
};
