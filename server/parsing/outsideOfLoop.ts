import { Piscina } from 'piscina';
import type { Asked, Came, Tasks } from './tasks.ts';
import { TooMuch } from './tooMuch.ts';

/** Whatever takes longer is given up, and its thread with it. People's own texts take milliseconds. */
const DEADLINE_MS = 10_000;
const MOST_WAITING = 100;

let pool: Piscina | undefined;

/**
 * Reads what a stranger or staff gave in a thread of its own with a deadline, so that nothing that is given can hold up
 * everybody else.
 * @throws {@link TooMuch} where it takes too long, or is nested or counted beyond its bounds
 */
export async function outsideOfLoop<Task extends keyof Tasks>(
  task: Task,
  ...given: Parameters<Tasks[Task]>
): Promise<ReturnType<Tasks[Task]>> {
  pool ??= new Piscina({
    filename: new URL('./thread.mjs', import.meta.url).href,
    minThreads: 1,
    maxThreads: 2,
    maxQueue: MOST_WAITING,
    idleTimeout: 60_000,
    resourceLimits: { maxOldGenerationSizeMb: 256, stackSizeMb: 4 },
  });
  const asked: Asked = { task, given };
  const came = await (pool.run(asked, { signal: AbortSignal.timeout(DEADLINE_MS) }) as Promise<Came>).catch(
    (error: unknown) => {
      if (isGivenUp(error)) return { tooMuch: true } as const;
      throw error;
    },
  );
  if ('tooMuch' in came) throw new TooMuch('This is too much to be read: make it simpler.');
  return came.done as ReturnType<Tasks[Task]>;
}

/** Whether a thread was ended in the middle of its work, or there were too many waiting for one. */
function isGivenUp(error: unknown): boolean {
  const { name, code, message } = error as { name?: string; code?: string; message?: string };
  return name === 'AbortError' || code === 'ERR_WORKER_OUT_OF_MEMORY' || message === 'Task queue is at limit';
}

/** Makes a thread ready before the first question comes. */
export function makeThreadReady(): void {
  void outsideOfLoop('strengthOf', '', []).catch(() => undefined); // Whoever asks later is told what is wrong.
}
