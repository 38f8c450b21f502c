import { PlainFailure } from '../sayAndExit.ts';
import type { BenchOptions } from './options.ts';

/** A benchmark that is told to stop leaves nothing behind: its parts and its database end with the process. */
export function endOnSignals(): void {
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
    // A second one, while the parts are being ended, is not to cut that short.
    process.on(signal, () => process.exit(130));
}

/** `almanac bench run` and `bench faults`; the core's own benchmark starts without any of what these need. */
export async function bench(what: string, options: BenchOptions): Promise<void> {
  endOnSignals();
  switch (what) {
    case 'run':
      return (await import('./run.ts')).benchRun(options);
    case 'faults':
      return (await import('./faults.ts')).benchFaults(options);
    case 'lists':
      return (await import('./lists.ts')).benchLists(options);
    case 'import':
      return (await import('./imports.ts')).benchImport(options);
    case 'join':
      return (await import('./joins.ts')).benchJoins(options);
    case 'documents':
      return (await import('./documents.ts')).benchDocuments(options);
    case 'web':
      return (await import('./web.ts')).benchWeb(options);
    case 'what-if':
      return (await import('./whatIf.ts')).benchWhatIf(options);
    default:
      throw new PlainFailure(
        'There are nine benchmarks: ./almanac bench core, bench run, bench lists, bench documents, bench import, bench join, bench web, bench what-if and bench faults.',
      );
  }
}
