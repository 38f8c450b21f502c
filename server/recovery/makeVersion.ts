import type { Transaction } from 'sequelize';
import type { LadderPolicy } from '../../core/recovery/ladder.ts';
import { Ladder } from './Ladder.ts';
import type { Serves } from './ladderMessages.ts';

interface Version {
  readonly name: string;
  readonly policy: LadderPolicy;
  readonly serves: Serves;
  readonly isDefault: boolean;
  readonly place: number;
  readonly madeOn: string;
  readonly madeBy: string;
  /** The version that it takes the place of; null: it is the first of a new ladder. */
  readonly of: Ladder | null;
}

/** Makes a version of a ladder: cases that open from now on may climb it, those that are open keep the one they climb. */
export async function makeVersion(version: Version, within: Transaction): Promise<Ladder> {
  const { of, policy, ...facts } = version;
  if (version.isDefault)
    await Ladder.update({ isDefault: false }, { where: { isDefault: true }, transaction: within });
  if (of) await of.update({ isCurrent: false, isDefault: false }, { transaction: within });
  const { rungs, finalAction, finalAfterDays, manner } = policy;
  const made = await Ladder.create(
    {
      ...{ ...facts, rungs: [...rungs], finalAction, finalAfterDays, manner },
      ...{ version: (of?.version ?? 0) + 1, lineId: of?.lineId ?? null },
    },
    { transaction: within },
  );
  return of ? made : made.update({ lineId: made.id }, { transaction: within });
}
