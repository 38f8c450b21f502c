import { useLocation } from 'react-router';
import type { NewRate } from './newRate.ts';

/** What an invoice that is to recur gives of a rate; undefined: the enrolment does not come from one. */
export function useRecurring(): Partial<NewRate> | undefined {
  const state = useLocation().state as { readonly recurring?: Partial<NewRate> } | null;
  return state?.recurring;
}
