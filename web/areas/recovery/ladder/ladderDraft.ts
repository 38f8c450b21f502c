import type { LadderPolicy, Rung } from '../../../../core/recovery/ladder.ts';
import {
  STARTING_LADDERS,
  startingPolicy,
  type StartingLadderKey,
} from '../../../../core/recovery/startingLadders.ts';
import {
  ladderSchema,
  type LadderDraft,
  type LadderRow,
} from '../../../../server/recovery/ladderMessages.ts';

/** A rung that is being edited: its key stays while its day changes. */
export type KeyedRung = Rung & { readonly key: string };

/** A ladder as it is being typed. */
export type TypedLadder = Omit<LadderDraft, 'policy'> & {
  readonly policy: Omit<LadderPolicy, 'rungs'> & { readonly rungs: readonly KeyedRung[] };
};

/** A key that no rung of these has. */
function freeKey(rungs: readonly KeyedRung[]): string {
  return String(rungs.reduce((most, { key }) => Math.max(most, Number(key)), -1) + 1);
}

const keyed = (rungs: readonly Rung[]): KeyedRung[] => rungs.map((rung, i) => ({ ...rung, key: String(i) }));

/** A stored ladder, to be changed. */
export function typedOf({ name, policy, serves, isDefault }: LadderRow): TypedLadder {
  return { name, serves, isDefault, policy: { ...policy, rungs: keyed(policy.rungs) } };
}

/** A new ladder, from one to start from. */
export function typedFrom(key: StartingLadderKey): TypedLadder {
  const policy = startingPolicy(key);
  return {
    ...{ name: STARTING_LADDERS[key].name, serves: {}, isDefault: false },
    policy: { ...policy, rungs: keyed(policy.rungs) },
  };
}

/** A new ladder of rungs that were suggested. */
export function typedSuggested(policy: LadderPolicy): TypedLadder {
  return {
    ...{ name: 'Suggested', serves: {}, isDefault: false },
    policy: { ...policy, rungs: keyed(policy.rungs) },
  };
}

/** What is sent. */
export function valueOf({ policy, ...typed }: TypedLadder): LadderDraft {
  const rungs = policy.rungs.map(({ key: _, ...rung }) => rung);
  return { ...typed, policy: { ...policy, rungs } as LadderDraft['policy'] };
}

/** What is wrong with what was typed, by the pointers of the server. */
export function faultsOf(typed: TypedLadder): ReadonlyMap<string, string> {
  const read = ladderSchema.safeParse(valueOf(typed));
  const faults = new Map<string, string>();
  for (const { path, message } of read.error?.issues ?? []) {
    const at = `/${path.join('/')}`;
    if (!faults.has(at)) faults.set(at, message);
  }
  return faults;
}

const byDay = (rungs: readonly KeyedRung[]) => rungs.toSorted((a, b) => a.afterDays - b.afterDays);

/** The rungs with one of them changed, by their days. */
export function withRung(typed: TypedLadder, key: string, to: Partial<Rung>): TypedLadder {
  const rungs = byDay(
    typed.policy.rungs.map((rung) => (rung.key === key ? without({ ...rung, ...to }) : rung)),
  );
  return { ...typed, policy: { ...typed.policy, rungs } };
}

/** Members that say nothing are left out: what is typed and taken back is as it was. */
function without(rung: KeyedRung): KeyedRung {
  return Object.fromEntries(
    Object.entries(rung).filter(([name, value]) => value !== undefined && !(name === 'tellsStaff' && !value)),
  ) as unknown as KeyedRung;
}

/** With another rung, on the first day after the last that is free before the end. */
export function withNewRung(typed: TypedLadder): { readonly typed: TypedLadder; readonly key: string } {
  const { rungs, finalAfterDays } = typed.policy;
  const key = freeKey(rungs);
  const last = rungs.at(-1)?.afterDays ?? -1;
  const afterDays = last < 0 ? 0 : last + 3;
  const added: KeyedRung = { key, afterDays, retry: true, letter: true };
  return {
    key,
    typed: {
      ...typed,
      policy: {
        ...typed.policy,
        rungs: byDay([...rungs, added]),
        finalAfterDays: Math.max(finalAfterDays, afterDays + 2),
      },
    },
  };
}

/** Without one of its rungs. */
export function withoutRung(typed: TypedLadder, key: string): TypedLadder {
  const rungs = typed.policy.rungs.filter((rung) => rung.key !== key);
  return { ...typed, policy: { ...typed.policy, rungs } };
}
