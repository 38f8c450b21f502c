import { RefusedTerms } from '../../core/terms/fault.ts';
import { RefusedCommand } from '../http/problem.ts';

/**
 * Does a part of some work; whatever is refused of it stands beside that part.
 * @param at where the part stands in what was asked for, as a JSON Pointer: `/also/0`
 */
export async function refusedAt<T>(at: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof RefusedTerms)
      throw new RefusedTerms(error.faults.map((fault) => ({ ...fault, pointer: `${at}${fault.pointer}` })));
    if (error instanceof RefusedCommand)
      throw new RefusedCommand(error.status, error.message, `${at}${error.faults[0]?.pointer ?? ''}`);
    throw error;
  }
}
