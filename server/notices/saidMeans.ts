import { sentence, type Said } from '../../core/letters/said.ts';
import type { MeansByHand } from '../payments/meansKinds.ts';

/** By what means money came or went by hand, for a letter. */
export function saidMeans(means: MeansByHand): Said {
  switch (means) {
    case 'transfer':
      return sentence('by transfer', {});
    case 'cash':
      return sentence('in cash', {});
    case 'cheque':
      return sentence('by cheque', {});
    case 'other':
      return sentence('another way', {});
  }
}
