import { createHash } from 'node:crypto';
import type { Request } from 'express';
import type { Almanac } from '../almanac.ts';
import { inTheNameOf, type Asker } from '../audit/asker.ts';
import { RefusedCommand } from './problem.ts';

interface Answer {
  readonly status: number;
  readonly body: unknown;
}

/** Answers are kept for so long. */
const KEPT = '7 days';
/** Whoever works on a request says so this often, and is given up when it has not for so long. */
const SAYS_SO_MS = 5_000;
const GIVEN_UP = '30 seconds';

interface Under {
  readonly name: string;
  readonly key: string;
}

/**
 * Does a request with an `Idempotency-Key` once, in the name of its asker: sent again with the same key and content it
 * gets the answer of the first time. A request that failed, or whose server died before anything was written, may be
 * sent again under its key; of one that was done and whose answer was lost, that is said. Strangers' requests have
 * ways of their own.
 */
export async function once(
  almanac: Almanac,
  request: Request,
  asker: Omit<Asker, 'entries'>,
  work: () => Promise<Answer>,
): Promise<Answer> {
  const key = request.get('Idempotency-Key');
  if (key === undefined || asker.via === 'stranger' || asker.via === 'customer')
    return inTheNameOf(asker, work);
  if (!/^[\x21-\x7e]{1,200}$/.test(key))
    throw new RefusedCommand(400, 'An Idempotency-Key has 1 to 200 visible ASCII characters.');
  const name = asker.personId === null ? asker.who : `person ${asker.personId}`;
  const fingerprint = createHash('sha256')
    .update(`${request.method} ${request.originalUrl}\n${JSON.stringify(request.body ?? null)}`)
    .digest();
  const under = { name, key };
  await almanac.db.rows(`delete from idempotency_keys where begun_at < now() - interval '${KEPT}'`);
  if (!(await begin(almanac, under, fingerprint))) {
    const earlier = await earlierAnswer(almanac, under, fingerprint);
    if (earlier !== null) return earlier;
  }
  return whileAlive(almanac, under, () => inTheNameOf({ ...asker, onceUnder: under }, work));
}

async function begin(almanac: Almanac, under: Under, fingerprint: Buffer): Promise<boolean> {
  const begun = await almanac.db.row(
    `insert into idempotency_keys (asker, key, fingerprint) values ($name, $key, $fingerprint)
     on conflict do nothing returning 1 as begun`,
    { ...under, fingerprint },
  );
  return begun !== null;
}

async function whileAlive(almanac: Almanac, under: Under, work: () => Promise<Answer>): Promise<Answer> {
  const alive = setInterval(() => {
    almanac.db
      .rows('update idempotency_keys set alive_at = now() where asker = $name and key = $key', { ...under })
      .catch(() => undefined); // The next time says it again.
  }, SAYS_SO_MS);
  try {
    const answer = await work().catch(async (error: unknown) => {
      // What was done before the fault stays done: its key is not forgotten.
      await almanac.db.rows(
        'delete from idempotency_keys where asker = $name and key = $key and done_at is null',
        { ...under },
      );
      throw error;
    });
    await almanac.db.rows(
      'update idempotency_keys set status = $status, body = $body::jsonb where asker = $name and key = $key',
      { ...under, status: answer.status, body: JSON.stringify(answer.body) },
    );
    return answer;
  } finally {
    clearInterval(alive);
  }
}

/** The answer of the first time, a refusal that says how it stands, or null: the work is to be taken up anew. */
async function earlierAnswer(almanac: Almanac, under: Under, fingerprint: Buffer): Promise<Answer | null> {
  const known = await almanac.db.row<{
    fingerprint: Buffer;
    status: number | null;
    body: unknown;
    done: boolean;
  }>(
    `select fingerprint, status, body, done_at is not null and alive_at < now() - interval '${GIVEN_UP}' as done
     from idempotency_keys where asker = $name and key = $key`,
    { ...under },
  );
  const underWay = new RefusedCommand(409, 'The same request is under way. Ask again in a moment.');
  if (!known) throw underWay;
  if (!known.fingerprint.equals(fingerprint)) {
    throw new RefusedCommand(422, 'This Idempotency-Key was used for another request. Take a new one.');
  }
  if (known.status !== null) return { status: known.status, body: known.body };
  if (known.done) {
    throw new RefusedCommand(
      409,
      'This was done, and the answer to it was lost. Look at what there is before you ask for it again.',
    );
  }
  const taken = await almanac.db.row(
    `update idempotency_keys set alive_at = now()
     where asker = $name and key = $key and status is null and done_at is null
       and alive_at < now() - interval '${GIVEN_UP}' returning 1 as taken`,
    { ...under },
  );
  if (!taken) throw underWay;
  return null;
}
