import type { Transaction } from 'sequelize';
import { Plan } from '../plans/Plan.ts';
import { Rate } from '../plans/Rate.ts';

/** A plan with those of its rates that are sold on a page. */
export interface SoldPlan {
  readonly plan: Plan;
  readonly rates: readonly Rate[];
}

/** Of some rates those that can be had now, by their plans in the order that they are named; and why others cannot. */
export async function saleOf(
  ids: readonly string[],
  within?: Transaction,
): Promise<{ readonly plans: readonly SoldPlan[]; readonly faults: readonly string[] }> {
  const by = within ? { transaction: within } : {};
  const rates = await Rate.findAll({ where: { id: [...ids] }, ...by });
  const plans = await Plan.findAll({ where: { id: rates.map(({ planId }) => planId) }, ...by });
  const sold: { plan: Plan; rates: Rate[] }[] = [];
  const faults: string[] = [];
  for (const id of ids) {
    const rate = rates.find((one) => one.id === id);
    const plan = rate && plans.find((one) => one.id === rate.planId);
    if (!rate || !plan) continue;
    if (rate.archivedOn !== null || plan.archivedOn !== null) {
      faults.push(`${plan.name}, ${rate.name} is archived: it is not offered here any more.`);
      continue;
    }
    const known = sold.find((one) => one.plan === plan);
    if (known) known.rates.push(rate);
    else sold.push({ plan, rates: [rate] });
  }
  return { plans: sold, faults };
}
