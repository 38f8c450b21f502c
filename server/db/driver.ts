import { createHash } from 'node:crypto';
import pg, { type QueryResult } from 'pg';
import { isLostStatement } from './trouble.ts';

/** A statement is prepared once it has come so often: what comes rarely is not worth the memory it would take. */
const COMES_AGAIN = 3;
/** So many statements are kept in mind, and so none that is written anew for each number of values fills the server. */
const MOST_STATEMENTS = 500;

type Told = (error: Error | null, result: QueryResult) => void;

/** Which statements of a process are prepared, on all of its connections. */
export class Statements {
  private readonly seen = new Map<string, number>();
  private off = false;

  /** The name under which a statement is prepared, or null where it is sent as it is. It is the same in every process. */
  nameOf(text: string): string | null {
    if (this.off) return null;
    const times = (this.seen.get(text) ?? 0) + 1;
    if (times === 1 && this.seen.size >= MOST_STATEMENTS) return null;
    this.seen.set(text, times);
    if (times <= COMES_AGAIN) return null;
    return `s${createHash('sha256').update(text).digest('base64url').slice(0, 40)}`;
  }

  /**
   * Looks at what went wrong: where the connection is not the one that was prepared, as behind a proxy that gives each
   * transaction another, nothing is prepared any more.
   */
  note(error: Error | null): void {
    if (isLostStatement(error)) this.off = true;
  }
}

/**
 * The driver, as the mapper uses it, with connections that outlive what goes wrong with them; where statements are given,
 * those that come again and again are planned once and not each time.
 */
export function driver(statements: Statements | null): typeof pg {
  class OurClient extends pg.Client {
    /** What the mapper knows a connection by that is not to be used any more. */
    _invalid = false;

    constructor(config?: string | pg.ClientConfig) {
      super(config);
      // A connection may be cut before the mapper listens to it: unheard, that would end the whole process.
      this.on('error', () => {
        this._invalid = true;
      });
    }

    override query(...given: unknown[]): never {
      const [text, values, told] = given;
      const ask = super.query.bind(this) as (...given: unknown[]) => never;
      const name = typeof text === 'string' && Array.isArray(values) ? statements?.nameOf(text) : null;
      if (!name || typeof told !== 'function') return ask(...given);
      return ask({ name, text, values }, (error: Parameters<Told>[0], result: QueryResult) => {
        statements?.note(error);
        (told as Told)(error, result);
      });
    }
  }
  return { ...pg, Client: OurClient } as typeof pg;
}
