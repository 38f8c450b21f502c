import type { WalkPosition } from '../listing/walkPosition.ts';
import type { CompiledTerms } from '../agreed/terms.ts';
import type { Terms } from '../terms/schema.ts';

/** Terms that run: as agreed, ready to compute with, and how far they have been charged. */
export interface RunningTerms {
  readonly terms: Terms;
  readonly compiled: CompiledTerms;
  readonly walk: WalkPosition | null;
}
