import type { WalkPosition } from '../listing/paymentWalk.ts';
import type { CompiledTerms } from '../terms/compile.ts';
import type { Terms } from '../terms/schema.ts';

/** Terms that run: as agreed, ready to compute with, and how far they have been charged. */
export interface RunningTerms {
  readonly terms: Terms;
  readonly compiled: CompiledTerms;
  readonly walk: WalkPosition | null;
}
