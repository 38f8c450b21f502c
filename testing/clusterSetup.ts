import { join } from 'node:path';
import getPort from 'get-port';
import type { TestProject } from 'vitest/node';
import { startCluster } from '../command/cluster.ts';
import { ROOT } from '../command/settings.ts';

declare module 'vitest' {
  export interface ProvidedContext {
    databaseUrl: string;
  }
}

/** Starts one private cluster for all tests; each world makes a database of its own in it. */
export default async function setup(project: TestProject): Promise<() => void> {
  const cluster = await startCluster(join(ROOT, '.almanac', 'test'), await getPort(), { fast: true });
  project.provide('databaseUrl', cluster.url('postgres'));
  return () => cluster.stop();
}
