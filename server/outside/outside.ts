import { lookup } from 'node:dns/promises';
import { isIP } from 'node:net';
import ipaddr from 'ipaddr.js';
import { Agent, fetch as fetchBy } from 'undici';
import { Business } from '../business/Business.ts';

/** What somebody typed leads to a place that the server does not go to, or the place does not answer as it must. */
export class NotReachable extends Error {
  override name = 'NotReachable';
}

const MOST_HOPS = 3;

/** What a fetch may cost. */
export interface Bounds {
  readonly mostBytes: number;
  readonly timeoutMs: number;
}

/** Whether an address is out on the internet: not private, loopback, link-local, multicast or otherwise special. */
export function isOutside(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  const parsed = ipaddr.process(address); // IPv4 inside IPv6 is looked at as IPv4.
  return parsed.range() === 'unicast';
}

/**
 * The address of a host that somebody typed, looked up once and to be used as it is, so that a name cannot mean
 * one place when it is checked and another when it is called. Practice mode allows every place.
 * @throws {@link NotReachable}
 */
export async function placeOf(host: string): Promise<string> {
  const bare = host.replace(/^\[|\]$/g, '');
  const found =
    isIP(bare) > 0
      ? [{ address: bare }]
      : await lookup(bare, { all: true }).catch(() => {
          throw new NotReachable(`There is no server called ${bare}.`);
        });
  const { practice } = await Business.findOne({ rejectOnEmpty: true });
  const inside = found.find(({ address }) => !isOutside(address));
  if (inside && !practice) {
    throw new NotReachable(`${bare} is an address inside a private network; such places are not called.`);
  }
  const [first] = found;
  if (!first) throw new NotReachable(`There is no server called ${bare}.`);
  return first.address;
}

/**
 * Fetches a text from an address that somebody typed: only http and https, only places outside (see
 * {@link placeOf}), again at every redirect, and bounded in time and size.
 * @throws {@link NotReachable} in words for the one who typed it
 */
export async function fetchText(
  address: string,
  bounds: Bounds,
): Promise<{ text: string; mediaType: string }> {
  const end = AbortSignal.timeout(bounds.timeoutMs);
  let url = new URL(address);
  for (let hop = 0; hop <= MOST_HOPS; hop += 1) {
    if (url.protocol !== 'https:' && url.protocol !== 'http:')
      throw new NotReachable('Only addresses that begin with https:// or http:// are fetched.');
    if (url.username !== '' || url.password !== '')
      throw new NotReachable('An address with a name and password in it is not fetched.');
    const place = await placeOf(url.hostname);
    // The connection goes to the very address that was checked.
    const agent = new Agent({
      connect: {
        lookup: (_host, options, done) => {
          const family = isIP(place);
          if (options.all) done(null, [{ address: place, family }]);
          else done(null, place, family);
        },
      },
    });
    try {
      const response = await fetchBy(url, { dispatcher: agent, redirect: 'manual', signal: end }).catch(
        (error: unknown) => {
          throw new NotReachable(
            end.aborted
              ? 'The server took too long to answer.'
              : `The server cannot be reached: ${causeOf(error)}.`,
          );
        },
      );
      const next = response.status >= 300 && response.status < 400 ? response.headers.get('location') : null;
      if (next !== null) {
        await response.body?.cancel();
        if (!URL.canParse(next, url.href)) throw new NotReachable('The server leads on to no address.');
        url = new URL(next, url);
        continue;
      }
      if (!response.ok) throw new NotReachable(`The server answers ${response.status}.`);
      const text = await readBounded(response.body, bounds.mostBytes, end);
      return { text, mediaType: response.headers.get('content-type')?.split(';')[0]?.trim() ?? '' };
    } finally {
      await agent.destroy();
    }
  }
  throw new NotReachable(`The address leads on more than ${MOST_HOPS} times.`);
}

async function readBounded(
  body: AsyncIterable<Uint8Array> | null,
  most: number,
  end: AbortSignal,
): Promise<string> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  try {
    for await (const chunk of body ?? []) {
      size += chunk.byteLength;
      if (size > most) throw new NotReachable(`The page is larger than ${Math.floor(most / 1000)} kB.`);
      chunks.push(chunk);
    }
  } catch (error) {
    if (error instanceof NotReachable) throw error;
    throw new NotReachable(end.aborted ? 'The server took too long to answer.' : 'The answer was cut short.');
  }
  return new TextDecoder('utf-8').decode(Buffer.concat(chunks));
}

function causeOf(error: unknown): string {
  const cause = error instanceof Error ? (error.cause as { code?: string } | undefined) : undefined;
  return cause?.code ?? 'no answer';
}
