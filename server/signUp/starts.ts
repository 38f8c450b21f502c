import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import type { PlanKind } from '../../core/offer/kinds.ts';
import { newPlanSchema, rateSchema } from '../plans/messages.ts';
import { addRate, makePlan, readPlan } from '../plans/plans.ts';
import { refusedAt } from '../reckonings/refusedAt.ts';
import type { PageStart, pageStartSchema } from './startMessages.ts';

type Start = z.output<typeof pageStartSchema>;
interface StartRate {
  readonly name: string;
  readonly terms: Record<string, unknown>;
}

const KINDS: Readonly<Record<PageStart, PlanKind>> = {
  membership: 'membership',
  course: 'course',
  box: 'goods',
  gift: 'donation',
  fee: 'service',
};

/** Makes the plan of a starting point with its rates; gives the ids of both. */
export async function beginPage(
  almanac: Almanac,
  start: Start,
): Promise<{ planId: string; rates: string[] }> {
  const [first, ...others] = ratesOf(start);
  if (!first) throw new Error(`The starting point ${start.start} has no rate.`);
  const plan = newPlanSchema.parse({ name: start.name, kind: KINDS[start.start], rate: first });
  const { id: planId } = await refusedAt('/amount', () => makePlan(almanac, plan));
  for (const rate of others)
    await refusedAt('/other', () => addRate(almanac, planId, rateSchema.parse(rate)));
  const { rates } = await readPlan(almanac, planId);
  return { planId, rates: rates.map(({ id }) => id) };
}

function ratesOf({ start, name, currency, amount, other }: Start): StartRate[] {
  const flat = (of: string) => [{ name, price: { scheme: 'flat', amount: of } }];
  const once = (of: string) => ({ currency, once: [{ name, amount: of }] });
  switch (start) {
    case 'membership':
      return [
        { name: 'Monthly', terms: { currency, interval: 'P1M', lines: flat(amount) } },
        { name: 'Yearly', terms: { currency, interval: 'P1Y', lines: flat(other) } },
      ];
    case 'course': {
      const lines = [{ name, price: { scheme: 'instalments', total: other } }];
      return [
        { name: 'Paid at once', terms: once(amount) },
        { name: 'In six instalments', terms: { currency, interval: 'P1M', lines, ends: { after: 6 } } },
      ];
    }
    case 'box':
      return [{ name: 'Each quarter', terms: { currency, interval: 'P3M', lines: flat(amount) } }];
    case 'gift': {
      const lines = [{ name, price: { scheme: 'chosen', amount, min: other } }];
      return [{ name: 'Monthly', terms: { currency, interval: 'P1M', lines } }];
    }
    case 'fee':
      return [{ name: 'Once', terms: once(amount) }];
  }
}
