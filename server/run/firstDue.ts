import type { Bound } from '../db/database.ts';
import type { Pass, Step } from './step.ts';

/**
 * The place of the first step in which there is anything to do: something is due, or batches of it are in somebody's hands.
 * One look for all steps together, so that a minute in which nothing is due costs next to nothing.
 * @returns the number of steps where there is nothing to do in any of them
 */
export async function firstDue(pass: Pass, steps: readonly Step[]): Promise<number> {
  const bound: Record<string, Bound> = { businessDate: pass.businessDate };
  // Each looked for as its own step does: under `exists` alone a large table is read through in the hope of an early find.
  const dues = steps.map((step, at) => `due${at} as materialized (${step.due})`);
  const cases = steps.map((step, at) => {
    Object.assign(bound, step.bound?.(pass));
    bound[`step${at}`] = step.name;
    return `when exists (select from run_batches where business_date = $businessDate::date and step = $step${at})
        or exists (select from due${at}) then ${at}`;
  });
  const row = await pass.almanac.db.row<{ at: number }>(
    `with ${dues.join(',\n')}
     select case ${cases.join('\n')} else ${steps.length} end as at`,
    bound,
  );
  return row?.at ?? steps.length;
}
