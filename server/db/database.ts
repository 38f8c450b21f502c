import type { Client } from 'pg';
import { QueryTypes, Sequelize, type Transaction } from 'sequelize';
import { setupModels } from './models.ts';
import { preparing, Statements } from './prepared.ts';

/** A value that may stand in for a `$name` in a statement; PostgreSQL reads bigints from their digits. */
export type Bound =
  | string
  | number
  | bigint
  | boolean
  | null
  | Date
  | readonly (string | number | boolean | null)[]
  | Uint8Array;

/**
 * The way to the database. Statements are written in SQL with `$name` parameters, never put together from
 * values; `within` is the transaction they belong to. Columns of type bigint come back as strings of digits,
 * dates as `YYYY-MM-DD`.
 */
export class Database {
  readonly sequelize: Sequelize;

  constructor(
    readonly url: string,
    options: { readonly connections?: number; readonly prepares?: boolean } = {},
  ) {
    this.sequelize = new Sequelize(url, {
      dialect: 'postgres',
      ...(options.prepares ? { dialectModule: preparing(new Statements()) } : {}),
      logging: false,
      pool: { max: options.connections ?? 10, idle: 10_000 },
      // Statements here are many and short: compiling one (jit) takes far longer than all of its work.
      hooks: {
        afterConnect: (connection) => (connection as Client).query('set jit = off').then(() => undefined),
      },
    });
    setupModels(this.sequelize);
  }

  /** The rows that a statement gives. */
  async rows<Row extends object>(
    statement: string,
    bound: Readonly<Record<string, Bound>> = {},
    within?: Transaction,
  ): Promise<Row[]> {
    const bind = Object.fromEntries(
      Object.entries(bound).map(([name, value]) => [
        name,
        typeof value === 'bigint' ? value.toString() : value,
      ]),
    );
    return (await this.sequelize.query(statement, {
      type: QueryTypes.SELECT,
      bind,
      ...(within ? { transaction: within } : {}),
    })) as Row[];
  }

  /** The first row, or null. */
  async row<Row extends object>(
    statement: string,
    bound: Readonly<Record<string, Bound>> = {},
    within?: Transaction,
  ): Promise<Row | null> {
    return (await this.rows<Row>(statement, bound, within))[0] ?? null;
  }

  /** Does all of the work or none of it. */
  transaction<T>(work: (within: Transaction) => Promise<T>): Promise<T> {
    return this.sequelize.transaction(work);
  }

  close(): Promise<void> {
    return this.sequelize.close();
  }
}
