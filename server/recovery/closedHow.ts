/** By what a case was closed: recovered by one of the first, given up by one of the last. */
export const CLOSED_HOW = {
  retry: 'by a retry',
  'new method': 'by another card',
  'by the customer': 'paid by the customer',
  'by staff': 'charged by staff',
  transfer: 'by transfer',
  cash: 'in cash',
  cheque: 'by cheque',
  other: 'paid by hand',
  credit: 'by a credit note',
  ladder: 'climbed to its end',
  'given up by staff': 'given up by staff',
  'written off': 'written off',
} as const;
export type ClosedHow = keyof typeof CLOSED_HOW;
