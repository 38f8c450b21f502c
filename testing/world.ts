import { randomBytes, randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import getPort from 'get-port';
import { Client } from 'pg';
import type { z } from 'zod';
import { Parts } from '../command/parts.ts';
import { formatDay, toDay } from '../core/dates/day.ts';
import type { Almanac } from '../server/almanac.ts';
import { Business } from '../server/business/Business.ts';
import { type Config } from '../server/config.ts';
import { importFiles } from '../server/imports/importFiles.ts';
import { turnDay } from '../server/run/turnDay.ts';
import type { Behaviour } from '../standins/gateway/practiceCards.ts';
import type { faultsSchema } from '../standins/gateway/schemas.ts';
import { openAlmanac } from '../command/open.ts';
import { beginSample } from './beginSample.ts';

/** For worlds in which the gateway leaves a question unanswered: how long that is waited for. */
export const SHORT_WAIT = { GATEWAY_TIMEOUT_MS: '2000' };

/** The day on which every test world begins. */
export const FIRST_DAY = '2027-01-04';

export interface MovedCard {
  readonly token: string;
  readonly behaviour: Behaviour;
  /** Where it is not 05/2031. */
  readonly expiresYear?: number;
  readonly expiresMonth?: number;
}

/**
 * A business of its own for a test: a database in the tests' cluster, and the gateway and mail stand-ins as
 * processes. Nothing is mocked.
 */
export class World {
  private constructor(
    readonly almanac: Almanac & { readonly config: Config },
    readonly environment: Record<string, string>,
    readonly parts: Parts,
    private readonly folder: string,
  ) {}

  /** Begins with a gateway account connected, unless the test does that itself. */
  static async begin(
    clusterUrl: string,
    changes: Record<string, string> = {},
    connected = true,
    firstDay = FIRST_DAY,
  ): Promise<World> {
    const folder = mkdtempSync(join(tmpdir(), 'almanac-'));
    const name = `w_${randomBytes(6).toString('hex')}`;
    const client = new Client({ connectionString: clusterUrl });
    await client.connect();
    await client.query(`create database ${client.escapeIdentifier(name)}`);
    await client.end();
    const [gateway, smtp, web] = [await getPort(), await getPort(), await getPort()];
    const environment: Record<string, string> = {
      DATABASE_URL: clusterUrl.replace(/\/postgres$/, `/${name}`),
      SMTP_URL: `smtp://127.0.0.1:${smtp}`,
      GATEWAY_URL: `http://127.0.0.1:${gateway}`,
      GATEWAY_SECRET_KEY: 'secret-key-of-the-test-gateway',
      GATEWAY_PUBLIC_KEY: 'public-key-of-the-test-gateway',
      GATEWAY_DEBIT_SECRET_KEY: 'secret-key-of-the-test-debits',
      GATEWAY_FILE: join(folder, 'gateway.jsonl'),
      GATEWAY_PORT: String(gateway),
      GATEWAY_TIMEOUT_MS: '10000',
      MAIL_FOLDER: join(folder, 'mail'),
      MAIL_PORT: String(smtp),
      ALMANAC_SECRET: 'a secret of the tests that is long enough',
      ALMANAC_KEY: Buffer.from('a key of 32 bytes for the tests!').toString('base64'),
      ALMANAC_URL: `http://127.0.0.1:${web}`,
      ALMANAC_DEMO: 'true',
      PORT: String(web),
      LOG_LEVEL: 'silent',
      LEASE_MS: '2000',
      ...changes,
    };
    const parts = new Parts();
    try {
      await Promise.all([
        parts.start(
          'gateway stand-in',
          ['standins/gateway/main.ts'],
          environment,
          'gateway stand-in on port',
        ),
        parts.start('mail stand-in', ['standins/mail/main.ts'], environment, 'mail stand-in on port'),
      ]);
      // As a worker has it.
      const almanac = await openAlmanac(() => environment, { prepares: true });
      await beginSample(almanac, firstDay, connected ? (environment.GATEWAY_SECRET_KEY ?? '') : null);
      return new World(almanac, environment, parts, folder);
    } catch (error) {
      // A world that did not begin is ended by nobody else.
      await parts.stop();
      throw error;
    }
  }

  /** Gives the gateway cards with a behaviour, as moved from another system. */
  async moveCards(cards: readonly MovedCard[]): Promise<void> {
    const facts = { network: 'Larkfield', lastFour: '4242', expiresYear: 2031, expiresMonth: 5 };
    await this.atGateway(
      'POST',
      '/v1/moved-cards',
      cards.map((card) => ({ ...facts, ...card })),
    );
  }

  /** Tells the gateway stand-in how to misbehave. */
  misbehave(faults: z.input<typeof faultsSchema>): Promise<unknown> {
    return this.atGateway('PUT', '/practice/faults', faults);
  }

  /** What the gateway really did, by its own record. */
  async chargesAtGateway(): Promise<
    { amount: bigint; state: string; code: string; idempotencyKey: string }[]
  > {
    const charges = [];
    for (const account of await this.almanac.gateways.connected()) {
      for await (const charge of this.almanac.gateways.of(account).charges()) charges.push(charge);
    }
    return charges;
  }

  /**
   * Enrols customers of a monthly plan of 10.00 GBP that starts on the first day, each with a card of the given
   * behaviour, and gives their subscriptions' ids in that order.
   */
  async enrol(behaviours: readonly Behaviour[], terms: object = { interval: 'P1M' }): Promise<string[]> {
    const batch = randomUUID().slice(0, 8);
    const tokens = behaviours.map((_, i) => `moved-${batch}-${i}`);
    await this.moveCards(behaviours.map((behaviour, i) => ({ token: tokens[i] ?? '', behaviour })));
    const line = { name: 'Sample', price: { scheme: 'flat', amount: '10.00' } };
    const rate = { key: 'only', name: 'Only', terms: { currency: 'GBP', lines: [line], ...terms } };
    const plans = { plans: [{ key: `plan-${batch}`, name: `Plan ${batch}`, rates: [rate] }] };
    const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
    const rows = tokens.map(
      (token, i) =>
        `${batch}-${i},Person ${i},person${i}.${batch}@post.example,plan-${batch},only,${businessDate},,${token}`,
    );
    const report = await importFiles(
      this.almanac,
      [
        { name: 'plans.json', text: JSON.stringify(plans) },
        {
          name: 'customers.csv',
          text: `reference,name,email,plan,rate,starts,quantity,card_token\r\n${rows.join('\r\n')}\r\n`,
        },
      ],
      { dryRun: false },
    );
    if (report.problems.length > 0) throw new Error(JSON.stringify(report.problems));
    const found = await this.almanac.db.rows<{ id: string }>(
      'select id from subscriptions where reference like $like order by id',
      { like: `${batch}-%` },
    );
    return found.map(({ id }) => id);
  }

  /** Turns days in this process up to, not including, a date. */
  async turnTo(date: string): Promise<void> {
    const business = await Business.findOne({ rejectOnEmpty: true });
    while (business.businessDate < date) {
      await turnDay(this.almanac, business.businessDate);
      await business.update({ businessDate: formatDay(toDay(business.businessDate) + 1) });
    }
  }

  /** The letters that the mail stand-in has taken, as they stand in its folder. */
  mail(): string[] {
    const { MAIL_FOLDER = '' } = this.environment;
    if (!existsSync(MAIL_FOLDER)) return [];
    return readdirSync(MAIL_FOLDER)
      .filter((name) => name.endsWith('.eml'))
      .map((name) => readFileSync(join(MAIL_FOLDER, name), 'utf8'));
  }

  async end(): Promise<void> {
    await this.parts.stop();
    await this.almanac.db.close();
    rmSync(this.folder, { recursive: true, force: true });
  }

  private async atGateway(method: string, path: string, body: unknown): Promise<unknown> {
    const response = await fetch(new URL(path, this.environment.GATEWAY_URL), {
      method,
      headers: {
        Authorization: `Bearer ${this.environment.GATEWAY_SECRET_KEY}`,
        'Content-Type': 'application/json',
      },
      body: JSON.stringify(body),
    });
    if (!response.ok) throw new Error(await response.text());
    return response.json();
  }
}

/** Waits until something holds, asking often; the limit ends what hangs, and says nothing of how fast it must be. */
export async function until(holds: () => Promise<boolean>, what: string): Promise<void> {
  for (const end = Date.now() + 600_000; Date.now() < end; await pause(25)) if (await holds()) return;
  throw new Error(`waited ten minutes for ${what}`);
}
