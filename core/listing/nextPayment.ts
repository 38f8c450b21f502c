import { compileTerms } from '../terms/compile.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import type { Terms } from '../terms/schema.ts';
import type { Payment } from './payment.ts';
import { PaymentWalk } from './paymentWalk.ts';
import type { WalkPosition } from './walkPosition.ts';

/** A payment and the state after it. */
export interface Step {
  readonly payment: Payment;
  readonly after: WalkPosition;
}

/**
 * The next payment after a state, or null when there is none any more: what an engine asks that renews a
 * subscription. Stepping through all of them gives the listing.
 *
 * @param state the `after` of the step before; left out, the first payment. Terms may have grown by changes that
 *   lie beyond what has been stepped over.
 * @example
 * const first = nextPayment(terms);
 * const second = first && nextPayment(terms, first.after);
 */
export function nextPayment(terms: Terms | CompiledTerms, state?: WalkPosition): Step | null {
  const compiled = 'digits' in terms ? terms : compileTerms(terms);
  const walk = new PaymentWalk(compiled, state);
  const payment = walk.next();
  return payment && { payment, after: walk.position() };
}
