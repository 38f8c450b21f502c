import type { BenchOptions } from './options.ts';

/** `almanac bench faults`: plays many seeds of the simulation of the run under faults. */
export function benchFaults(_options: BenchOptions): Promise<void> {
  return Promise.reject(new Error('not built yet'));
}
