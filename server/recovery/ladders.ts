import type { Transaction } from 'sequelize';
import type { FinalAction, RetryManner, Rung } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { differenceOf, settingsOf } from '../settings/settings.ts';
import { Ladder } from './Ladder.ts';
import type { LadderDraft, LadderRow, LadderVersion, Serves } from './ladderMessages.ts';
import { ladderUse, ladderVersions } from './ladders.sql.ts';
import { makeVersion } from './makeVersion.ts';
import { policyOf } from './standing.ts';

/** The ladders that cases may climb, in the order in which they are asked; the one for everybody else comes last. */
export async function listLadders(almanac: Almanac): Promise<LadderRow[]> {
  const ladders = await Ladder.findAll({
    where: { isCurrent: true },
    order: [
      ['isDefault', 'asc'],
      ['place', 'asc'],
      ['id', 'asc'],
    ],
  });
  const use = await ladderUse(almanac.db);
  return ladders.map((ladder) => ({ ...viewOf(ladder), ...use(ladder.lineId ?? ladder.id) }));
}

/** One ladder with its versions, the newest first. `id` is that of its first version. */
export async function readLadder(
  almanac: Almanac,
  id: string,
): Promise<LadderRow & { readonly versions: LadderVersion[] }> {
  const ladder = await Ladder.findOne({ where: { lineId: id }, order: [['version', 'desc']] });
  if (!ladder) throw noLadder();
  const use = await ladderUse(almanac.db);
  return { ...viewOf(ladder), ...use(id), versions: await ladderVersions(almanac.db, id) };
}

function viewOf(ladder: Ladder): Omit<LadderRow, 'open' | 'older' | 'recovered' | 'givenUp'> {
  const { id, name, version, isDefault, isCurrent, place, serves, madeBy } = ladder;
  return {
    ...{ id: ladder.lineId ?? id, name, version, isDefault, isCurrent, place, serves, madeBy },
    ...{ policy: policyOf(ladder), madeOn: ladder.madeOn ?? null },
  };
}

/** Makes a ladder. It is asked before the others whether it is for a case. */
export function makeLadder(almanac: Almanac, draft: LadderDraft): Promise<{ id: string }> {
  return almanac.db.transaction(async (within) => {
    await lockLadders(almanac, within);
    await requireGood(almanac, draft, null, within);
    const made = await makeVersion(
      { ...(await factsOf(almanac, draft, within)), place: await firstPlace(within), of: null },
      within,
    );
    await recordDone(almanac, { did: 'made a ladder', subject: draft.name, after: draft }, within);
    return { id: made.id };
  });
}

/**
 * Changes a ladder: it gets a new version. Cases that are open keep the one that they climb.
 * @throws {@link ConflictingEdit} where somebody has changed it since
 */
export function changeLadder(
  almanac: Almanac,
  id: string,
  edit: { readonly version: number; readonly value: LadderDraft },
): Promise<void> {
  return almanac.db.transaction(async (within) => {
    await lockLadders(almanac, within);
    const before = await currentOf(id, within);
    const was = draftOf(before);
    if (before.version !== edit.version)
      throw new ConflictingEdit({ value: was, version: before.version, changedBy: before.madeBy });
    if (before.isDefault && !edit.value.isDefault)
      throw new RefusedCommand(
        422,
        'Some ladder is for everybody else: make another one that, and this one will not be it any more.',
        '/value/isDefault',
      );
    await requireGood(almanac, edit.value, before, within);
    const facts = await factsOf(almanac, edit.value, within);
    await makeVersion({ ...facts, place: before.place, of: before }, within);
    await recordDone(
      almanac,
      { did: 'changed a ladder', subject: edit.value.name, ...differenceOf(was, edit.value) },
      within,
    );
  });
}

/** Takes a ladder out of use: cases that climb it go on, and no other begins to. */
export function retireLadder(almanac: Almanac, id: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    await lockLadders(almanac, within);
    const ladder = await currentOf(id, within);
    if (ladder.isDefault)
      throw new RefusedCommand(409, 'This ladder is for everybody else. Make another one that first.');
    await ladder.update({ isCurrent: false }, { transaction: within });
    await recordDone(almanac, { did: 'took a ladder out of use', subject: ladder.name }, within);
  });
}

/** Puts the ladders in the order in which they are asked whether they are for a case. */
export function orderLadders(almanac: Almanac, ids: readonly string[]): Promise<LadderRow[]> {
  return almanac.db
    .transaction(async (within) => {
      await lockLadders(almanac, within);
      const ladders = await Ladder.findAll({
        where: { isCurrent: true, isDefault: false },
        transaction: within,
      });
      const known = new Set(ladders.map(({ lineId }) => lineId));
      if (ids.length !== known.size || ids.some((id) => !known.has(id)) || new Set(ids).size !== ids.length)
        throw new RefusedCommand(409, 'The ladders are not those any more: look at them once more.');
      for (const ladder of ladders)
        await ladder.update({ place: ids.indexOf(ladder.lineId ?? '') }, { transaction: within });
      const subject = ids.map((id) => ladders.find(({ lineId }) => lineId === id)?.name).join(', ');
      await recordDone(almanac, { did: 'ordered the ladders', subject }, within);
    })
    .then(() => listLadders(almanac));
}

/** Two who change ladders at once do so one after the other. */
async function lockLadders(almanac: Almanac, within: Transaction): Promise<void> {
  await almanac.db.rows('select 1 from ladders where is_default for update', {}, within);
}

async function currentOf(id: string, within: Transaction): Promise<Ladder> {
  const ladder = await Ladder.findOne({ where: { lineId: id, isCurrent: true }, transaction: within });
  if (!ladder) throw noLadder();
  return ladder;
}

const noLadder = () => new RefusedCommand(404, 'There is no such ladder, or it is out of use.');

/** A ladder as it is typed. */
function draftOf(ladder: Ladder): LadderDraft {
  const { name, serves, isDefault } = ladder;
  return { name, policy: policyOf(ladder) as LadderDraft['policy'], serves, isDefault };
}

async function factsOf(
  almanac: Almanac,
  { name, policy, serves, isDefault }: LadderDraft,
  within: Transaction,
) {
  return {
    ...{ name, isDefault, serves: isDefault ? {} : serves },
    policy: policy as {
      rungs: Rung[];
      finalAction: FinalAction;
      finalAfterDays: number;
      manner: RetryManner;
    },
    ...{ madeOn: await businessDateOf(almanac, within), madeBy: askerNow().who },
  };
}

async function firstPlace(within: Transaction): Promise<number> {
  const least = await Ladder.min<number, Ladder>('place', {
    where: { isCurrent: true },
    transaction: within,
  });
  return (least ?? 0) - 1;
}

/** Its name is its own, it serves somebody, and its letters are not switched off. */
async function requireGood(
  almanac: Almanac,
  { name, policy, serves, isDefault }: LadderDraft,
  before: Ladder | null,
  within: Transaction,
): Promise<void> {
  const named = await almanac.db.row<{ lineId: string }>(
    'select line_id::text as "lineId" from ladders where is_current and lower(name) = lower($name)',
    { name },
    within,
  );
  if (named && named.lineId !== before?.lineId)
    throw new RefusedCommand(422, 'Another ladder has this name.', '/value/name');
  if (!isDefault && isForAll(serves))
    throw new RefusedCommand(
      422,
      'Say for whom it is, or make it the ladder for everybody else.',
      '/value/serves',
    );
  const { letters } = await settingsOf(almanac, 'recovery', within);
  const silent = (['payment declined', 'payment still declined', 'last reminder'] as const).every(
    (event) => letters[event] === false,
  );
  if (silent && policy.finalAction !== 'leave')
    throw new RefusedCommand(
      422,
      'All letters of recovery are switched off: switch one on, or leave all as it is at the end.',
      '/value/policy/finalAction',
    );
}

const isForAll = ({ plans, methods, classes, amount }: Serves) =>
  !plans?.length && !methods?.length && !classes?.length && !amount;
