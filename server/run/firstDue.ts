import type { Bound } from '../db/database.ts';
import type { Pass, Step } from './step.ts';

/**
 * The place of the first step, from one on, in which there is anything to do: something is due, or batches of it are in
 * somebody's hands. One look for all steps together, so that a day on which little is due costs little.
 * @returns the number of steps where there is nothing to do in any of them
 */
export async function firstDue(pass: Pass, steps: readonly Step[], from: number): Promise<number> {
  const bound: Record<string, Bound> = { businessDate: pass.businessDate, from, all: steps.length };
  const cases = steps.map((step, at) => {
    Object.assign(bound, step.bound?.(pass));
    bound[`step${at}`] = step.name;
    return `when $from <= ${at} and (
        exists (select from run_batches where business_date = $businessDate::date and step = $step${at})
        or exists (select from (${step.due}) due)) then ${at}`;
  });
  const row = await pass.almanac.db.row<{ at: number }>(
    `select case ${cases.join('\n')} else $all::int end as at`,
    bound,
  );
  return row?.at ?? steps.length;
}
