import type { Almanac } from '../almanac.ts';
import { RefusedTerms, type Fault } from '../../core/terms/fault.ts';
import { Database } from '../db/database.ts';
import { Gateways } from '../gateways/Gateways.ts';
import { ConflictingEdit, RefusedCommand } from '../http/problem.ts';
import { workImport } from '../imports/importWork.ts';
import { workLog } from '../log.ts';
import { effectOfMove, effectOfRate } from '../plans/changeRate.ts';
import { TooMuch } from '../parsing/tooMuch.ts';

/** What is computed of very many things, and so outside of the event loop; each changes nothing. */
const READS = { effectOfRate, effectOfMove };
/** What goes on for long by itself, whoever waits for it: it writes down how far it is. */
const WORKS = { workImport };
const ALL = { ...READS, ...WORKS };
export type Reads = typeof READS;
export type Works = typeof WORKS;

/** What a thread is asked: a read with what it takes, and where it reads. */
export interface Asked {
  readonly read: keyof typeof ALL;
  readonly given: readonly unknown[];
  readonly url: string;
  readonly config: Almanac['config'];
}

/** What was thrown, as far as a thread can say it to another: errors lose their kind on the way. */
type Refused =
  | {
      readonly kind: 'command';
      readonly status: number;
      readonly says: string;
      readonly pointer: string | undefined;
    }
  | { readonly kind: 'conflict'; readonly theirs: ConflictingEdit['theirs'] }
  | { readonly kind: 'terms'; readonly faults: readonly Fault[] }
  | { readonly kind: 'too much'; readonly says: string };

export type Came = { readonly done: unknown } | { readonly refused: Refused };

function sayRefused(error: unknown): Refused | null {
  if (error instanceof ConflictingEdit) return { kind: 'conflict', theirs: error.theirs };
  if (error instanceof RefusedCommand)
    return { kind: 'command', status: error.status, says: error.message, pointer: error.faults[0]?.pointer };
  if (error instanceof RefusedTerms) return { kind: 'terms', faults: error.faults };
  return error instanceof TooMuch ? { kind: 'too much', says: error.message } : null;
}

/** The error that a thread told of. */
export function thrownBy(refused: Refused): Error {
  if (refused.kind === 'conflict') return new ConflictingEdit(refused.theirs);
  if (refused.kind === 'terms') return new RefusedTerms(refused.faults);
  if (refused.kind === 'too much') return new TooMuch(refused.says);
  return new RefusedCommand(refused.status, refused.says, refused.pointer);
}

let opened: { readonly url: string; readonly almanac: Almanac } | undefined;

function almanacOf({ url, config }: Asked): Almanac {
  if (opened?.url !== url) {
    void opened?.almanac.db.close();
    const log = workLog({ LOG_LEVEL: 'error' });
    const db = new Database(url, { connections: 4 });
    opened = {
      url,
      almanac: { db, config, log, gateways: new Gateways(config), clock: () => new Date() },
    };
  }
  return opened.almanac;
}

export default async function work(asked: Asked): Promise<Came> {
  const read = ALL[asked.read] as (almanac: Almanac, ...given: readonly unknown[]) => Promise<unknown>;
  try {
    return { done: await read(almanacOf(asked), ...asked.given) };
  } catch (error) {
    const refused = sayRefused(error);
    if (refused === null) throw error;
    return { refused };
  }
}
