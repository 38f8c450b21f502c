import pLimit, { type LimitFunction } from 'p-limit';
import type { Client } from 'pg';
import { QueryTypes, Sequelize, type Transaction } from 'sequelize';
import { setupModels } from './models.ts';
import { driver, Statements } from './driver.ts';

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

/** Connections that no transaction takes. */
const FREE = 2;

/**
 * The way to the database. Statements are written in SQL with `$name` parameters, never put together from
 * values; `within` is the transaction they belong to. Columns of type bigint come back as strings of digits,
 * dates as `YYYY-MM-DD`.
 */
export class Database {
  readonly sequelize: Sequelize;
  private readonly inTransaction: LimitFunction;
  /** Done at the end of each transaction, as its last part: what is stored of what it altered. */
  atEnd: (within: Transaction) => Promise<void> = () => Promise.resolve();

  constructor(
    readonly url: string,
    options: { readonly connections?: number; readonly prepares?: boolean } = {},
  ) {
    const connections = options.connections ?? 10;
    this.inTransaction = pLimit(Math.max(1, connections - FREE));
    this.sequelize = new Sequelize(url, {
      dialect: 'postgres',
      dialectModule: driver(options.prepares ? new Statements() : null),
      logging: false,
      // What was prepared goes with its connection.
      pool: { max: connections, idle: options.prepares ? 600_000 : 10_000 },
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

  /**
   * Does all of the work or none of it. Some connections are left to statements outside of transactions: work may ask one
   * of them in between, however much other work there is.
   */
  transaction<T>(work: (within: Transaction) => Promise<T>): Promise<T> {
    return this.inTransaction(() =>
      this.sequelize.transaction(async (within) => {
        const done = await work(within);
        await this.atEnd(within);
        return done;
      }),
    );
  }

  close(): Promise<void> {
    return this.sequelize.close();
  }
}
