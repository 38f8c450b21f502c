import type { Piscina } from 'piscina';
import type { Almanac } from '../almanac.ts';
import { poolOf } from '../threads/poolOf.ts';
import { thrownBy, type Asked, type Came, type Reads } from './reads.ts';

let pool: Piscina | undefined;

/** What a read takes beside the almanac, which each thread opens for itself. */
type Given<Read extends keyof Reads> =
  Parameters<Reads[Read]> extends [Almanac, ...infer Rest] ? Rest : never;

/**
 * Computes what is asked of very many things in a thread of its own, so that everybody else is answered meanwhile. A thread
 * whose answer nobody waits for any more is ended, and with it what it reads.
 * @throws what the read throws of its own, and an AbortError where `signal` says that it is to be given up
 */
export async function readBeside<Read extends keyof Reads>(
  { db: { url }, config }: Almanac,
  signal: AbortSignal,
  read: Read,
  ...given: Given<Read>
): Promise<Awaited<ReturnType<Reads[Read]>>> {
  pool ??= poolOf('beside/reads.ts', {
    ...{ minThreads: 0, maxThreads: 2, maxQueue: 100, memoryMb: 1024 },
  });
  const asked: Asked = { read, given, url, config: plain(config) };
  const came = (await pool.run(asked, { signal })) as Came;
  if ('refused' in came) throw thrownBy(came.refused);
  return came.done as Awaited<ReturnType<Reads[Read]>>;
}

/** A configuration as it can be given to a thread: without what is no plain value. */
const plain = (config: Almanac['config']) => JSON.parse(JSON.stringify(config)) as Almanac['config'];
