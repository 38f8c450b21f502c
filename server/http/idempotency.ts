import { createHash } from 'node:crypto';
import type { Request } from 'express';
import type { Almanac } from '../almanac.ts';
import type { Asker } from '../audit/asker.ts';
import { RefusedCommand } from './problem.ts';

interface Answer {
  readonly status: number;
  readonly body: unknown;
}

/** Answers are kept for so long. */
const KEPT = '7 days';

/**
 * Does a request with an `Idempotency-Key` once: sent again with the same key and content it gets the answer of
 * the first time. A request that failed may be sent again under its key. Strangers' requests have ways of their own.
 */
export async function once(
  almanac: Almanac,
  request: Request,
  asker: Omit<Asker, 'entries'>,
  work: () => Promise<Answer>,
): Promise<Answer> {
  const key = request.get('Idempotency-Key');
  if (key === undefined || asker.via === 'stranger' || asker.via === 'customer') return work();
  if (!/^[\x21-\x7e]{1,200}$/.test(key))
    throw new RefusedCommand(400, 'An Idempotency-Key has 1 to 200 visible ASCII characters.');
  const name = asker.personId === null ? asker.who : `person ${asker.personId}`;
  const fingerprint = createHash('sha256')
    .update(`${request.method} ${request.originalUrl}\n${JSON.stringify(request.body ?? null)}`)
    .digest();
  const bound = { name, key };
  await almanac.db.rows(`delete from idempotency_keys where begun_at < now() - interval '${KEPT}'`);
  const begun = await almanac.db.row(
    `insert into idempotency_keys (asker, key, fingerprint) values ($name, $key, $fingerprint)
     on conflict do nothing returning 1 as begun`,
    { ...bound, fingerprint },
  );
  if (!begun) return earlierAnswer(almanac, bound, fingerprint);
  try {
    const answer = await work();
    await almanac.db.rows(
      'update idempotency_keys set status = $status, body = $body::jsonb where asker = $name and key = $key',
      { ...bound, status: answer.status, body: JSON.stringify(answer.body) },
    );
    return answer;
  } catch (error) {
    await almanac.db.rows('delete from idempotency_keys where asker = $name and key = $key', bound);
    throw error;
  }
}

async function earlierAnswer(
  almanac: Almanac,
  bound: { name: string; key: string },
  fingerprint: Buffer,
): Promise<Answer> {
  const known = await almanac.db.row<{ fingerprint: Buffer; status: number | null; body: unknown }>(
    'select fingerprint, status, body from idempotency_keys where asker = $name and key = $key',
    bound,
  );
  if (!known) throw new RefusedCommand(409, 'The same request is under way. Ask again in a moment.');
  if (!known.fingerprint.equals(fingerprint)) {
    throw new RefusedCommand(422, 'This Idempotency-Key was used for another request. Take a new one.');
  }
  if (known.status === null)
    throw new RefusedCommand(409, 'The same request is under way. Ask again in a moment.');
  return { status: known.status, body: known.body };
}
