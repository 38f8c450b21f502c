import type { CompiledTerms } from '../agreed/terms.ts';
import { formatDay } from '../dates/day.ts';
import { PaymentWalk } from './paymentWalk.ts';

/** A sum that is due: on which day, `YYYY-MM-DD`, and how much, in minor units, digits only. */
export interface FirstDue {
  readonly dueOn: string;
  readonly due: string;
}

/** So many payments are looked at: what costs nothing for longer shows nothing. */
const LOOKED_AT = 400;

/**
 * The first payments of terms with something to pay, in the order in which they come: what somebody who agrees to them is
 * shown, and is then held against what is charged.
 * @param most how many, at most
 */
export function firstDues(terms: CompiledTerms, most: number): FirstDue[] {
  const dues: FirstDue[] = [];
  const walk = new PaymentWalk(terms);
  for (let n = 0; n < LOOKED_AT && dues.length < most; n += 1) {
    const payment = walk.next();
    if (payment === null) break;
    if (payment.due > 0n) dues.push({ dueOn: formatDay(payment.dueOn), due: payment.due.toString() });
  }
  return dues;
}
