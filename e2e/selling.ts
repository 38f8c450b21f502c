import { expect } from '@playwright/test';
import { importFiles } from '../server/imports/importFiles.ts';
import { mend } from '../server/readiness/mends.ts';
import { verify } from '../server/verify/verify.ts';
import { World } from '../testing/world.ts';

/** A plan of one rate, as the file of an offer has it. */
export interface SoldPlan {
  readonly key: string;
  readonly name: string;
  readonly rates: readonly { readonly key: string; readonly name: string; readonly terms: object }[];
}

/** A plan of one rate, 48.00 a month, for journeys in which it does not matter what is sold. */
export const HIVES: SoldPlan = {
  ...{ key: 'hives', name: 'Hive Watch' },
  rates: [
    {
      ...{ key: 'monthly', name: 'Monthly' },
      terms: {
        ...{ currency: 'GBP', interval: 'P1M' },
        lines: [{ name: 'Hive', price: { scheme: 'flat', amount: '48.00' } }],
      },
    },
  ],
};

/**
 * A business that may sell, with some plans, and customers from the lines of a file where there are any: what a journey goes on
 * from. The server is not started yet.
 */
export async function sell(plans: readonly SoldPlan[]): Promise<World> {
  const world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  await mend(world.almanac, 'terms');
  await mend(world.almanac, 'no-tax');
  await bringIn(world, 'plans.json', JSON.stringify({ plans }));
  return world;
}

/** Customers from the lines of a file, the first of which names its columns. */
export const bringInCustomers = (world: World, lines: readonly string[]) =>
  bringIn(world, 'customers.csv', `${lines.join('\r\n')}\r\n`);

async function bringIn(world: World, name: string, text: string): Promise<void> {
  const { problems } = await importFiles(world.almanac, [{ name, text }], { dryRun: false });
  expect(problems).toEqual([]);
}

/** Starts the server of a world; gives its address. */
export async function serve(world: World): Promise<string> {
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
  return world.environment.ALMANAC_URL ?? '';
}

/** Ends a world in which everything that must always be true is. */
export async function endSound(world: World): Promise<void> {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
}
