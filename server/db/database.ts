import { AsyncLocalStorage } from 'node:async_hooks';
import { setTimeout as pause } from 'node:timers/promises';
import pLimit, { type LimitFunction } from 'p-limit';
import type { Client } from 'pg';
import { QueryTypes, Sequelize, type Transaction } from 'sequelize';
import { setupModels } from './models.ts';
import { driver, Statements } from './driver.ts';

/**
 * How each connection is set. Statements here are many and short: compiling one (jit) takes far longer than all of its work;
 * and what nobody waits for any more, because the process or its thread has ended, is not read to its end.
 */
const SESSION = "set jit = off; set client_connection_check_interval = '1s'";

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

/** After so long a read that is to be stopped is told again. */
const STOP_AGAIN_MS = 100;

/** A heavy read under way: the connection that it has for itself. */
interface Reading {
  readonly within: Transaction;
  readonly signal: AbortSignal;
  readonly inTurn: LimitFunction;
}

/** Connections that no transaction takes. */
const FREE = 2;
/** So many heavy reads go on at once, where nothing else is said: others wait, and what is light is answered in between. */
const HEAVY_READS = 2;

/**
 * The way to the database. Statements are written in SQL with `$name` parameters, never put together from
 * values; `within` is the transaction they belong to. Columns of type bigint come back as strings of digits,
 * dates as `YYYY-MM-DD`.
 */
export class Database {
  readonly sequelize: Sequelize;
  private readonly inTransaction: LimitFunction;
  private readonly heavily: LimitFunction;
  private readonly reading = new AsyncLocalStorage<Reading | undefined>();
  /** Done at the end of each transaction, as its last part: what is stored of what it altered. */
  atEnd: (within: Transaction) => Promise<void> = () => Promise.resolve();

  constructor(
    readonly url: string,
    options: {
      readonly connections?: number;
      readonly prepares?: boolean;
      readonly heavyReads?: number;
    } = {},
  ) {
    const { connections = 10, heavyReads = HEAVY_READS } = options;
    this.inTransaction = pLimit(Math.max(1, connections - FREE));
    this.heavily = pLimit(heavyReads);
    this.sequelize = new Sequelize(url, {
      dialect: 'postgres',
      dialectModule: driver(options.prepares ? new Statements() : null),
      logging: false,
      // What was prepared goes with its connection.
      pool: { max: connections + heavyReads, idle: options.prepares ? 600_000 : 10_000 },
      hooks: { afterConnect: (connection) => (connection as Client).query(SESSION).then(() => undefined) },
    });
    setupModels(this.sequelize);
  }

  /** The rows that a statement gives. */
  async rows<Row extends object>(
    statement: string,
    bound: Readonly<Record<string, Bound>> = {},
    within?: Transaction,
  ): Promise<Row[]> {
    const reading = within ? undefined : this.reading.getStore();
    // One connection answers one statement after the other.
    if (reading)
      return reading.inTurn(() => {
        reading.signal.throwIfAborted();
        return this.rows<Row>(statement, bound, reading.within);
      });
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
      this.reading.run(undefined, () =>
        this.sequelize.transaction(async (within) => {
          const done = await work(within);
          await this.atEnd(within);
          return done;
        }),
      ),
    );
  }

  /**
   * Does reading that is heavy, beside everything else: few at once, each on a connection of its own and all of it as the
   * database stands at one moment. Statements without a transaction that it asks are part of it.
   * @throws where `signal` says that it is to be given up: what is being read then is stopped in the database
   */
  readHeavily<T>(signal: AbortSignal, read: () => Promise<T>): Promise<T> {
    return this.heavily(() => {
      signal.throwIfAborted();
      return this.sequelize.transaction(async (within) => {
        await this.rows('set transaction isolation level repeatable read, read only', {}, within);
        const ended = new AbortController();
        let stopping: Promise<unknown> | undefined;
        const stop = () => (stopping = this.stop(within, ended.signal));
        signal.addEventListener('abort', stop, { once: true });
        try {
          return await this.reading.run({ within, signal, inTurn: pLimit(1) }, read);
        } finally {
          signal.removeEventListener('abort', stop);
          ended.abort();
          await stopping; // Whoever has this connection next is not to be stopped.
        }
      });
    });
  }

  /**
   * Stops what a transaction is being answered, until it has ended: a statement that is on its way to the database just then
   * is not stopped by the first word.
   */
  private async stop(transaction: Transaction, ended: AbortSignal): Promise<void> {
    const { connection } = transaction as unknown as { readonly connection: { readonly processID: number } };
    while (!ended.aborted) {
      await this.sequelize
        .query('select pg_cancel_backend($pid)', { bind: { pid: connection.processID } })
        .catch(() => undefined); // A database that is away answers nobody.
      await pause(STOP_AGAIN_MS, undefined, { signal: ended }).catch(() => undefined);
    }
  }

  close(): Promise<void> {
    return this.sequelize.close();
  }
}
