import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { outsideOfLoop } from '../parsing/outsideOfLoop.ts';
import { TooMuch } from '../parsing/tooMuch.ts';
import { fetchText, NotReachable } from '../outside/outside.ts';
import type { PolicyKind, policySchema, PolicyView } from './messages.ts';

const BOUNDS = { mostBytes: 500_000, timeoutMs: 10_000 };

/** Every version of every policy, the newest first. */
export async function listPolicies(almanac: Almanac): Promise<PolicyView[]> {
  const today = await businessDateOf(almanac);
  const rows = await almanac.db.rows<Omit<PolicyView, 'writtenAt' | 'inForce'> & { at: Date }>(
    `select p.id::text, p.kind, p.version, p.text, p.source, p.effective_on as "effectiveOn", p.written_by as "writtenBy",
       p.written_at as at, (select count(*)::int from mandates m where m.policy_id = p.id) as agreed,
       case when c.policy_id is null then null
            else json_build_object('answers', c.answers, 'same', c.same, 'says', c.says) end as check
     from policies p left join policy_checks c on c.policy_id = p.id
     order by p.kind, p.version desc`,
  );
  return rows.map(({ at, ...row }) => ({
    ...row,
    writtenAt: at.toISOString(),
    inForce: row.id === inForceOf(rows, row.kind, today)?.id,
  }));
}

function inForceOf<Row extends { kind: string; version: number; effectiveOn: string }>(
  rows: readonly Row[],
  kind: string,
  today: string,
): Row | undefined {
  return rows
    .filter((row) => row.kind === kind && row.effectiveOn <= today)
    .sort((a, b) =>
      a.effectiveOn === b.effectiveOn ? b.version - a.version : a.effectiveOn < b.effectiveOn ? 1 : -1,
    )[0];
}

/** The version of a policy that is in force on a day, or null: what somebody agrees to on that day. */
export function policyInForce(
  almanac: Almanac,
  kind: PolicyKind,
  date: string,
  within?: Transaction,
): Promise<{ id: string; version: number; text: string } | null> {
  return almanac.db.row(
    `select id::text, version, text from policies where kind = $kind and effective_on <= $date
     order by effective_on desc, version desc limit 1`,
    { kind, date },
    within,
  );
}

/**
 * Writes a new version of a policy; those before stay as they are, with whoever agreed to them. A text given as an
 * address is copied now and kept, whatever becomes of the address.
 */
export async function writePolicy(
  almanac: Almanac,
  given: z.output<typeof policySchema>,
): Promise<{ id: string; version: number }> {
  const today = await businessDateOf(almanac);
  if (given.effectiveOn < today) {
    throw new RefusedCommand(422, `A new version holds from ${today} or later.`, '/effectiveOn');
  }
  const text = given.source === '' ? given.text : await copyOf(given.source);
  return almanac.db.transaction(async (within) => {
    await almanac.db.rows(
      `select pg_advisory_xact_lock(hashtext('policy ' || $kind))`,
      { kind: given.kind },
      within,
    );
    const made = await almanac.db.row<{ id: string; version: number }>(
      `insert into policies (kind, version, text, source, effective_on, written_by)
       select $kind, coalesce(max(version), 0) + 1, $text, $source, $effectiveOn, $who from policies where kind = $kind
       returning id::text, version`,
      {
        kind: given.kind,
        text,
        source: given.source === '' ? null : given.source,
        effectiveOn: given.effectiveOn,
        who: askerNow().who,
      },
      within,
    );
    if (!made) throw new Error('The policy was not written.');
    await recordDone(
      almanac,
      {
        did: 'wrote a policy',
        subject: `${given.kind}, version ${made.version}`,
        after: { source: given.source, effectiveOn: given.effectiveOn, characters: text.length },
      },
      within,
    );
    return made;
  });
}

async function copyOf(source: string): Promise<string> {
  try {
    return await readableText(source);
  } catch (error) {
    if (!(error instanceof NotReachable)) throw error;
    throw new RefusedCommand(422, `The text could not be copied: ${error.message}`, '/source');
  }
}

/** The text of a page as a reader sees it, without scripts and styles; of a plain text, itself. */
async function readableText(source: string): Promise<string> {
  const { text, mediaType } = await fetchText(source, BOUNDS);
  const readable =
    mediaType === 'text/html' || mediaType === 'application/xhtml+xml' ? await readPage(text) : text;
  const tidy = readable
    .replaceAll('\0', '')
    .replace(/[ \t]+/g, ' ')
    .replace(/\n\s*\n\s*/g, '\n\n')
    .trim();
  if (tidy === '') throw new NotReachable('There is no text at this address.');
  if (tidy.length > 200_000) throw new NotReachable('The text has more than 200,000 characters.');
  return tidy;
}

async function readPage(html: string): Promise<string> {
  try {
    return await outsideOfLoop('textOfHtml', html);
  } catch (error) {
    if (error instanceof TooMuch) throw new NotReachable('The page there cannot be read: it is too large.');
    throw error;
  }
}

/** Looks whether the address of a linked policy still answers, and with the text that was copied. */
export async function checkLinkedPolicy(almanac: Almanac, id: string): Promise<void> {
  const policy = await almanac.db.row<{ source: string | null; text: string }>(
    'select source, text from policies where id = $id',
    { id },
  );
  if (!policy?.source) throw new RefusedCommand(404, 'This policy was not given as an address.');
  let check = { answers: true, same: true, says: '' };
  try {
    const same = (await readableText(policy.source)) === policy.text;
    if (!same) check = { answers: true, same, says: 'The text there has changed since it was copied.' };
  } catch (error) {
    if (!(error instanceof NotReachable)) throw error;
    check = { answers: false, same: false, says: error.message };
  }
  await almanac.db.rows(
    `insert into policy_checks (policy_id, answers, same, says) values ($id, $answers, $same, $says)
     on conflict (policy_id) do update
       set checked_at = now(), answers = excluded.answers, same = excluded.same, says = excluded.says`,
    { id, ...check },
  );
}

/** Looks at the addresses of linked policies that nobody has looked at for a day; those superseded are left alone. */
export async function checkLinkedPolicies(almanac: Almanac): Promise<void> {
  const linked = await almanac.db.rows<{ id: string }>(
    `select distinct on (kind) id::text from policies p
     where source is not null
       and not exists (select 1 from policies later where later.kind = p.kind and later.version > p.version)
       and not exists (select 1 from policy_checks c where c.policy_id = p.id and c.checked_at > now() - interval '1 day')
     order by kind, version desc`,
  );
  for (const { id } of linked) await checkLinkedPolicy(almanac, id);
}
