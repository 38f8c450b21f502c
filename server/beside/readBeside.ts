import type { Piscina } from 'piscina';
import type { Almanac } from '../almanac.ts';
import { poolOf } from '../threads/poolOf.ts';
import { thrownBy, type Asked, type Came, type Reads, type Works } from './reads.ts';

let pool: Piscina | undefined;
let works: Piscina | undefined;

/** What is done takes beside the almanac, which each thread opens for itself. */
type Given<Done extends (almanac: Almanac, ...given: never[]) => unknown> =
  Parameters<Done> extends [Almanac, ...infer Rest] ? Rest : never;

/**
 * Computes what is asked of very many things in a thread of its own, so that everybody else is answered meanwhile. A thread
 * whose answer nobody waits for any more is ended, and with it what it reads.
 * @throws what the read throws of its own, and an AbortError where `signal` says that it is to be given up
 */
export async function readBeside<Read extends keyof Reads>(
  almanac: Almanac,
  signal: AbortSignal,
  read: Read,
  ...given: Given<Reads[Read]>
): Promise<Awaited<ReturnType<Reads[Read]>>> {
  pool ??= poolOf('beside/reads.ts', {
    ...{ minThreads: 0, maxThreads: 2, maxQueue: 100, memoryMb: 1024 },
  });
  return (await done(pool, almanac, signal, read, given)) as Awaited<ReturnType<Reads[Read]>>;
}

/** Does something long in a thread of its own, one after the other, so that reads never wait for it. */
export async function workBeside<Work extends keyof Works>(
  almanac: Almanac,
  signal: AbortSignal,
  work: Work,
  ...given: Given<Works[Work]>
): Promise<void> {
  works ??= poolOf('beside/reads.ts', {
    ...{ minThreads: 0, maxThreads: 1, maxQueue: 20, memoryMb: 1024 },
  });
  await done(works, almanac, signal, work, given);
}

async function done(
  threads: Piscina,
  { db: { url }, config }: Almanac,
  signal: AbortSignal,
  read: Asked['read'],
  given: readonly unknown[],
): Promise<unknown> {
  const asked: Asked = { read, given, url, config: plain(config) };
  const came = (await threads.run(asked, { signal })) as Came;
  if ('refused' in came) throw thrownBy(came.refused);
  return came.done;
}

/** A configuration as it can be given to a thread: without what is no plain value. */
const plain = (config: Almanac['config']) => JSON.parse(JSON.stringify(config)) as Almanac['config'];
