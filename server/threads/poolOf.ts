import { Piscina } from 'piscina';
import { bundled } from '../bundled.ts';

/** What a pool of threads may take. */
interface Bounds {
  readonly minThreads: number;
  readonly maxThreads: number;
  /** So many may wait for a thread. */
  readonly maxQueue: number;
  /** Megabytes of one thread. */
  readonly memoryMb: number;
}

/**
 * Threads that do the tasks of a module (its default export); those above the least end when they have nothing to do.
 * @param tasks from the folder of the server on: 'parsing/tasks.ts'
 */
export function poolOf(tasks: string, { memoryMb, ...bounds }: Bounds): Piscina {
  const made = bundled(`server/${tasks}`);
  const pool = new Piscina({
    filename: made ?? new URL('./thread.mjs', import.meta.url).href,
    ...bounds,
    idleTimeout: 60_000,
    resourceLimits: { maxOldGenerationSizeMb: memoryMb, stackSizeMb: 4 },
    workerData: { tasks: new URL(`../${tasks}`, import.meta.url).href },
  });
  // A thread that cannot begin, or dies with nothing to do, ends nobody but itself: who waits for one is given up in time.
  pool.on('error', (error: Error) => process.emitWarning(`A thread of ${tasks} ended: ${error.message}`));
  return pool;
}

/** Whether a thread was ended in the middle of its work, or there were too many waiting for one. */
export function isGivenUp(error: unknown): boolean {
  const { name, code, message } = error as { name?: string; code?: string; message?: string };
  return name === 'AbortError' || code === 'ERR_WORKER_OUT_OF_MEMORY' || message === 'Task queue is at limit';
}
