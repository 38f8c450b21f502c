import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { ChildProcess } from 'node:child_process';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import { requireTerms } from '../../core/terms/check.ts';
import type { Almanac } from '../../server/almanac.ts';
import { type Config } from '../../server/config.ts';
import { Database } from '../../server/db/database.ts';
import { migrate } from '../../server/db/migrate.ts';
import { connectByKey } from '../../server/gateways/connect.ts';
import type { Cluster } from '../cluster.ts';
import { Parts } from '../parts.ts';
import { openAlmanac } from '../open.ts';
import { beginSample } from '../../testing/beginSample.ts';

/** The first boundary of every subscription of a benchmark; the day that is turned is one month after. */
const STARTS = '2027-01-15';
const SECRET_KEY = 'secret-key-of-the-bench-gateway';

/** A month that has two lines and a tax, as a real renewal has. */
export const TERMS = requireTerms({
  currency: 'GBP',
  starts: STARTS,
  interval: 'P1M',
  on: { day: 15 },
  lines: [
    { name: 'Hive Watch', price: { scheme: 'flat', amount: '24.00' } },
    { name: 'Second scale', quantity: 2, price: { scheme: 'each', amount: '4.50' } },
  ],
  tax: { rate: '20', mode: 'inclusive' },
});

/** A business of a benchmark: its database, its gateway stand-in, and the workers that turn its days. */
export class Bench {
  private constructor(
    readonly almanac: Almanac & { readonly config: Config },
    readonly environment: Record<string, string>,
    readonly parts: Parts,
    private readonly folder: string,
    /** Whether it is one that an earlier run has built and kept. */
    readonly isKept: boolean,
  ) {}

  /** Opens a business in a database of its own, made anew unless it is there and may be kept. */
  static async open(
    cluster: Cluster,
    folder: string,
    name: string,
    port: number,
    keep = false,
  ): Promise<Bench> {
    const kept = keep && existsSync(join(folder, name));
    if (!kept) {
      const admin = new Database(cluster.url('postgres'), { connections: 1 });
      await admin.sequelize.query(`drop database if exists "${name}" with (force)`);
      await admin.close();
    }
    await cluster.createDatabase(name);
    mkdirSync(folder, { recursive: true });
    const file = join(folder, `${name}-gateway.jsonl`);
    if (!kept) rmSync(file, { force: true });
    // The same each time: what is kept names it.
    const [gateway, web] = [port, port + 1];
    const environment: Record<string, string> = {
      DATABASE_URL: cluster.url(name),
      GATEWAY_URL: `http://127.0.0.1:${gateway}`,
      GATEWAY_SECRET_KEY: SECRET_KEY,
      GATEWAY_PUBLIC_KEY: 'public-key-of-the-bench-gateway',
      GATEWAY_FILE: file,
      GATEWAY_PORT: String(gateway),
      ALMANAC_SECRET: 'a secret of the benchmark that is long enough',
      ALMANAC_KEY: Buffer.from('a key of 32 bytes for the bench!').toString('base64'),
      ALMANAC_URL: `http://127.0.0.1:${web}`,
      ALMANAC_DEMO: 'true',
      PORT: String(web),
      LOG_LEVEL: 'error',
    };
    const parts = new Parts();
    await parts.start(
      'gateway stand-in',
      ['standins/gateway/main.ts'],
      environment,
      'gateway stand-in on port',
    );
    // As in a worker: some days are turned in this process.
    const almanac = await openAlmanac(() => environment, { prepares: true });
    if (kept) {
      // One of a release before is brought up to this one; nothing is to come of what only makes it large.
      await migrate(almanac.db.sequelize);
      await almanac.db.rows(
        `update subscriptions set foresee_on = null where wake_on > '2090-01-01' and foresee_on is not null`,
      );
      await almanac.db.sequelize.query('analyze subscriptions');
    } else {
      await beginSample(almanac, STARTS, SECRET_KEY);
      await almanac.db.rows(
        `with p as (insert into plans (key, name) values ('hive-watch', 'Hive Watch') returning id),
         r as (insert into rates (plan_id, key, name, terms) select id, 'monthly', 'Monthly', $terms::jsonb from p returning id)
         insert into rate_versions (rate_id, version, name, terms, tax_choice, options, saved_by)
         select id, 1, 'Monthly', $terms::jsonb, '{"kind":"default"}', '{}', 'bench' from r`,
        { terms: JSON.stringify(TERMS) },
      );
    }
    return new Bench(almanac, environment, parts, folder, kept);
  }

  /** The day on which the renewal after so many months is due. */
  static dayOf(months: number): string {
    const month = months % 12;
    return `${2027 + Math.floor(months / 12)}-${String(month + 1).padStart(2, '0')}-15`;
  }

  /**
   * Adds subscriptions in bulk by SQL, each invoiced and paid up to its first month, with a card at the gateway. They are
   * due after one month, or, where they only make the table large, in many years.
   */
  async addSubscriptions(count: number, due: boolean): Promise<void> {
    const { db } = this.almanac;
    const walk = new PaymentWalk(compileTerms(TERMS));
    walk.next();
    const bound = {
      count,
      terms: JSON.stringify(TERMS),
      walk: JSON.stringify(walk.position()),
      wakeOn: due ? Bench.dayOf(1) : '2099-01-15',
      starts: STARTS,
      due,
    };
    await db.rows(
      `with base as (select coalesce(max(id), 0) as n from customers),
       people as (
         insert into customers (reference, name, email, created_on)
         select 'B-' || (base.n + i), 'Person ' || (base.n + i), 'person' || (base.n + i) || '@post.example', $starts
         from base, generate_series(1, $count::int) i returning id),
       cards as (
         insert into payment_methods (customer_id, gateway_account_id, gateway_token, network, last_four, expires_year, expires_month, state, added_on)
         select id, (select min(id) from gateway_accounts), 'bench-card-' || id, 'Larkfield', '4242', 2039, 5, 'usable', $starts from people
         returning id),
       agreed as (
         insert into mandates (payment_method_id, agreed_text, channel, given_on)
         select id, 'I agree.', 'import', $starts from cards returning id)
       insert into subscriptions (reference, customer_id, rate_id, rate_version, terms, walk, state, starts_on, wake_on, enrolled_on, foresee_on)
       select 'S-' || id, id, (select min(id) from rates), 1, $terms::jsonb, $walk::jsonb, 'active', $starts, $wakeOn, $starts,
         case when $due then $starts::date end
       from people order by id`,
      bound,
    );
    if (due) await this.moveCards(count);
    // As after every import: plans are made by what the tables hold now.
    await db.sequelize.query('analyze customers, payment_methods, mandates, subscriptions');
  }

  /** Gives the gateway the cards of the newest customers. */
  private async moveCards(count: number): Promise<void> {
    const rows = await this.almanac.db.rows<{ token: string }>(
      'select gateway_token as token from payment_methods order by id desc limit $count',
      { count },
    );
    await this.takeOver(rows.map(({ token }) => token));
  }

  /** Gives the gateway good cards of these tokens, as when they are moved there from another system. */
  async takeOver(tokens: readonly string[]): Promise<void> {
    const facts = {
      network: 'Larkfield',
      lastFour: '4242',
      expiresYear: 2039,
      expiresMonth: 5,
      behaviour: {},
    };
    for (let at = 0; at < tokens.length; at += 5000)
      await this.atGateway(
        'POST',
        '/v1/moved-cards',
        tokens.slice(at, at + 5000).map((token) => ({ token, ...facts })),
      );
  }

  async atGateway(method: string, path: string, body?: unknown): Promise<unknown> {
    const response = await fetch(new URL(path, this.environment.GATEWAY_URL), {
      method,
      headers: { Authorization: `Bearer ${SECRET_KEY}`, 'Content-Type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`The gateway stand-in: ${await response.text()}`);
    return response.json();
  }

  /** How many charges the gateway has made. */
  async chargesMade(): Promise<number> {
    let count = 0;
    for (const account of await this.almanac.gateways.connected())
      for await (const _ of this.almanac.gateways.of(account).charges()) count += 1;
    return count;
  }

  /** Starts a worker, as `almanac worker` is. */
  startWorker(name: string, changes: Record<string, string> = {}): Promise<ChildProcess> {
    const environment = { ...this.environment, ...changes };
    return this.parts.start(name, ['command/main.ts', 'worker'], environment, 'worker at work');
  }

  /** From now on the gateway tells nobody of its charges; see {@link Bench.tellOfCharges}. */
  async tellNobody(): Promise<void> {
    await this.atGateway('DELETE', '/v1/webhook');
  }

  /** From now on the gateway tells the server of each charge by a webhook. */
  async tellOfCharges(): Promise<void> {
    await this.almanac.db.rows('update gateway_accounts set disconnected_on = connected_on');
    await connectByKey(this.almanac, SECRET_KEY, 'environment');
  }

  startServer(): Promise<ChildProcess> {
    return this.parts.start('server', ['command/main.ts', 'serve'], this.environment, 'serving on');
  }

  async end(): Promise<void> {
    await this.parts.stop();
    await this.almanac.db.close();
  }

  /** Marks that this business is whole, so that a later run may keep it. */
  keep(name: string): void {
    mkdirSync(join(this.folder, name), { recursive: true });
  }
}

/** The most memory that a process has had, in megabytes. */
export function peakMb({ pid }: ChildProcess): number {
  const kept = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
  return Math.round(Number(kept ?? 0) / 1024);
}
