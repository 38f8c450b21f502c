import type { Piscina } from 'piscina';
import { isGivenUp, poolOf } from '../threads/poolOf.ts';
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
  pool ??= poolOf('parsing/tasks.ts', {
    ...{ minThreads: 1, maxThreads: 2, maxQueue: MOST_WAITING, memoryMb: 256 },
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

/** Makes a thread ready before the first question comes. */
export function makeThreadReady(): void {
  void outsideOfLoop('strengthOf', '', []).catch(() => undefined); // Whoever asks later is told what is wrong.
}
