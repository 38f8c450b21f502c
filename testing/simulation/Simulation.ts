import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import express from 'express';
import getPort from 'get-port';
import { Client } from 'pg';
import { openAlmanac } from '../../command/open.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../../server/almanac.ts';
import { takeWebhooks } from '../../server/gateways/webhook.ts';
import { askForTurn } from '../../server/run/turnPages.ts';
import { verify } from '../../server/verify/verify.ts';
import { beginSample } from '../beginSample.ts';
import type { Behaviour } from '../../standins/gateway/practiceCards.ts';
import { Blows } from './Blows.ts';
import { answerBanks } from './cardholders.ts';
import {
  LAST_DAYS,
  QUIET_DAYS,
  STORM_DAYS,
  type Blow,
  type Scenario,
  type SimulatedCustomer,
} from './scenario.ts';
import { act } from './staffActs.ts';
import { GatewayHere, MailHere, SECRET } from './StandIns.ts';
import { Workforce } from './Workforce.ts';

const FIRST_DAY = '2027-01-04';
const flat = (amount: string) => ({ scheme: 'flat', amount });
const RATES = {
  weekly: { interval: 'P1W', lines: [{ name: 'Row', price: flat('7.00') }] },
  fortnightly: {
    interval: 'P2W',
    lines: [
      { name: 'Hive', price: flat('19.00') },
      { name: 'Scale', price: flat('3.35') },
    ],
    tax: { rate: '20', mode: 'exclusive' },
  },
  monthly: { interval: 'P1M', lines: [{ name: 'Honey', price: flat('11.50') }] },
  tried: { interval: 'P1W', trial: { length: 'P3D' }, lines: [{ name: 'Box', price: flat('8.40') }] },
} as const;

/** What is emptied between two runs; everything else of the business stays. */
const EMPTIED =
  'customers, planned_charges, day_sums, needs, days, page_turns, run_batches, journal, letters, staff_letters, webhooks_received, invoice_parties';

/** What came of a run, as far as blows must not change it. */
export interface Outcome {
  /** Of each subscription, by its reference. */
  readonly subscriptions: readonly object[];
  /** What each account of the books holds. */
  readonly books: readonly object[];
  readonly charges: readonly string[];
  /** What went back, here and at the gateway, and what credit is left. */
  readonly refunds: readonly object[];
  readonly refundsAtGateway: readonly string[];
  readonly credit: readonly object[];
}

/**
 * A business that is played again and again: in one database, with stand-ins in this process and workers in processes of
 * their own, which can be killed. One at a time is open in a process.
 */
export class Simulation {
  private constructor(
    readonly almanac: Almanac,
    private readonly gateway: GatewayHere,
    private readonly mail: MailHere,
    private readonly web: Server,
    private readonly folder: string,
    private readonly workers: Workforce,
    private readonly blows: Blows,
  ) {}

  private rateIds = new Map<string, string>();
  /** So many charges were confirmed, or turned down, by their cardholders. */
  confirmed = 0;

  /** @param restartDatabase restarts the database in the middle of its work; null where others use it too */
  static async begin(clusterUrl: string, restartDatabase: (() => void) | null = null): Promise<Simulation> {
    const folder = mkdtempSync(join(tmpdir(), 'almanac-simulation-'));
    const name = `s_${randomBytes(6).toString('hex')}`;
    const client = new Client({ connectionString: clusterUrl });
    await client.connect();
    await client.query(`create database ${client.escapeIdentifier(name)}`);
    await client.end();
    const [gatewayPort, mailPort, webPort] = [await getPort(), await getPort(), await getPort()];
    const environment: Record<string, string> = {
      DATABASE_URL: clusterUrl.replace(/\/postgres$/, `/${name}`),
      SMTP_URL: `smtp://127.0.0.1:${mailPort}`,
      GATEWAY_URL: `http://127.0.0.1:${gatewayPort}`,
      GATEWAY_TIMEOUT_MS: '300',
      GATEWAY_LANES: '8',
      LEASE_MS: '600',
      WORKER_LOOK_MS: '40',
      ALMANAC_SECRET: 'a secret of the simulation that is long enough',
      ALMANAC_KEY: Buffer.from('a key of 32 bytes for simulating').toString('base64'),
      ALMANAC_URL: `http://127.0.0.1:${webPort}`,
      ALMANAC_DEMO: 'true',
      LOG_LEVEL: process.env.SIMULATION_LOG ?? 'silent',
    };
    const almanac = await openAlmanac(() => environment, { prepares: true });
    const gateway = new GatewayHere(
      folder,
      { secret: SECRET, public: 'public-key-of-the-simulation' },
      gatewayPort,
    );
    await gateway.start();
    const mail = new MailHere(mailPort);
    await mail.start();
    const app = express();
    takeWebhooks(app, almanac);
    const web = createServer(app).listen(webPort, '127.0.0.1');
    await once(web, 'listening');
    await beginSample(almanac, FIRST_DAY, SECRET);
    const workers = await Workforce.ready(environment, almanac);
    const blows = new Blows({ almanac, environment, gateway, mail, workers, restartDatabase });
    const simulation = new Simulation(almanac, gateway, mail, web, folder, workers, blows);
    await simulation.offerRates();
    return simulation;
  }

  private async offerRates(): Promise<void> {
    const { db } = this.almanac;
    await db.rows(`insert into plans (key, name) values ('simulated', 'Simulated')`);
    for (const [key, terms] of Object.entries(RATES)) {
      const row = await db.row<{ id: string }>(
        `with r as (insert into rates (plan_id, key, name, terms) select id, $key, $key, $terms::jsonb from plans returning id)
         insert into rate_versions (rate_id, version, name, terms, tax_choice, options, saved_by)
         select id, 1, $key, $terms::jsonb, '{"kind":"none"}', '{}', 'simulation' from r returning rate_id::text as id`,
        { key, terms: JSON.stringify({ currency: 'GBP', ...terms }) },
      );
      this.rateIds.set(key, row?.id ?? '');
    }
  }

  /** Plays a scenario, with its blows or in peace, and gives what came of it and what is wrong with it. */
  async play(scenario: Scenario, inPeace: boolean): Promise<{ outcome: Outcome; wrong: string[] }> {
    const { workers, blows, blowsOnActs } = inPeace ? { workers: 1, blows: [], blowsOnActs: [] } : scenario;
    const { customers } = scenario;
    await this.reset(customers);
    await this.workers.staff(workers);
    for (let day = 0; day < STORM_DAYS; day += 1) {
      await this.under(
        blows.filter((blow) => blow.day === day),
        this.turnTo(day + 1).then(() => this.cardholders(customers)),
      );
    }
    for (let day = STORM_DAYS; day < STORM_DAYS + QUIET_DAYS; day += 1) {
      await this.turnTo(day + 1);
      await this.cardholders(customers);
    }
    await this.untilAnswered();
    await this.under(blowsOnActs, Promise.all(scenario.acts.map((one) => act(this.almanac, one))));
    await this.turnTo(STORM_DAYS + QUIET_DAYS + LAST_DAYS);
    await this.untilAnswered();
    return { outcome: await this.outcome(), wrong: await this.wrong() };
  }

  private async cardholders(customers: readonly SimulatedCustomer[]): Promise<void> {
    this.confirmed += await answerBanks(this.almanac, customers);
  }

  /** Goes on under blows; what still lasts when nothing more can be done is ended, and the work with it. */
  private async under(blows: readonly Blow[], work: Promise<unknown>): Promise<void> {
    const fallen = blows.map((blow) => this.blows.fall(blow));
    await Promise.race([work, pause(1_500)]);
    await Promise.all(fallen);
    await this.blows.end();
    await work;
  }

  async end(): Promise<void> {
    await this.workers.end();
    this.gateway.kill();
    await this.mail.kill();
    this.web.closeAllConnections();
    this.web.close();
    await this.almanac.db.close();
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** The same business with other customers, on its first day, none of whom has paid yet. */
  private async reset(customers: readonly SimulatedCustomer[]): Promise<void> {
    const { db } = this.almanac;
    this.gateway.forget();
    this.mail.taken.clear();
    await db.transaction(async (within) => {
      await db.rows(`truncate ${EMPTIED} restart identity cascade`, {}, within);
      await db.rows(
        `update business set business_date = $day, next_invoice_number = 1, next_credit_note_number = 1, instance = gen_random_uuid()`,
        { day: FIRST_DAY },
        within,
      );
      await db.rows(`update gateway_accounts set well = true, health = ''`, {}, within);
    });
    const holder = [...this.gateway.vault.accounts.values()].find(({ secretKey }) => secretKey === SECRET);
    for (const [i, { rate, starts, card, fallback, waits, bank }] of customers.entries()) {
      const token = `simulated-${i}`;
      const keep = (behaviour: Behaviour, under: string) =>
        this.gateway.vault.keepCard(
          {
            ...{ account: holder?.account ?? '', network: 'Larkfield', lastFour: '4242' },
            ...{ expiresYear: bank ? null : 2039, expiresMonth: bank ? null : 5, behaviour },
          },
          under,
        );
      keep(card, token);
      if (fallback !== null) keep(fallback, `${token}-fallback`);
      const day = formatDay(toDay(FIRST_DAY) + starts);
      const trialEnds = rate === 'tried' ? formatDay(toDay(day) + 3) : null;
      await db.rows(
        `with c as (insert into customers (reference, name, email, created_on, method_asked_on)
                    values ($reference, $name, $email, $first, case when $waits::boolean then $first::date end) returning id),
         m as (insert into payment_methods (customer_id, gateway_account_id, gateway_token, network, last_four, kind, expires_year, expires_month, state, added_on)
               select id, (select min(id) from gateway_accounts), $token, 'Larkfield', '4242', $kind::text, $year::int, $month::int, 'usable', $first from c
               where not $waits::boolean returning id),
         f as (insert into payment_methods (customer_id, gateway_account_id, gateway_token, network, last_four, expires_year, expires_month, state, added_on, role)
               select id, (select min(id) from gateway_accounts), $token || '-fallback', 'Larkfield', '4242', 2039, 5, 'usable', $first, 'fallback' from c
               where not $waits::boolean and $falls::boolean returning id)
         insert into subscriptions (reference, customer_id, rate_id, rate_version, terms, state, starts_on, trial_ends_on, wake_on, enrolled_on, issue_before, without_method)
         select $reference, id, $rateId, 1, $terms::jsonb, 'scheduled', $day, $trialEnds, $day, $first, $early,
           case when $waits::boolean then 'wait' end from c`,
        {
          ...{
            reference: `C-${String(i).padStart(2, '0')}`,
            name: `Person ${i}`,
            email: `person${i}@post.example`,
          },
          ...{
            first: FIRST_DAY,
            token,
            day,
            trialEnds,
            // Some are invoiced before their periods begin.
            early: i % 3 === 1 ? i % 5 : 0,
            waits,
            ...{ kind: bank ? 'bank account' : 'card', year: bank ? null : 2039, month: bank ? null : 5 },
            falls: fallback !== null,
            rateId: this.rateIds.get(rate) ?? '',
          },
          terms: JSON.stringify({ currency: 'GBP', starts: day, ...RATES[rate] }),
        },
      );
    }
  }

  private async turnTo(days: number): Promise<void> {
    const to = formatDay(toDay(FIRST_DAY) + days);
    for (let asked = false; ; await pause(20)) {
      this.workers.requireAlive();
      try {
        if (!asked) await askForTurn(this.almanac, to);
        asked = true;
        const row = await this.almanac.db.row<{ day: string; done: boolean }>(
          `select business_date as day, not exists (select from page_turns where state <> 'done') as done from business`,
        );
        if (!row?.done) continue;
        if (row.day >= to) return;
        // The wish was lost with the connection that carried it.
        asked = false;
      } catch {
        // The database is away for a moment.
      }
    }
  }

  /**
   * Waits for what was asked of the gateway on the last day: on a slow machine an answer may come after its short time limit,
   * and is asked for a minute later.
   */
  private async untilAnswered(): Promise<void> {
    for (const end = Date.now() + 90_000; Date.now() < end; await pause(20))
      if (
        !(await this.almanac.db.row(
          `select from attempts where state = 'under way' union all select from refunds where state = 'under way' limit 1`,
        ))
      )
        return;
  }

  private async outcome(): Promise<Outcome> {
    const { db } = this.almanac;
    return {
      subscriptions: await db.rows(
        `select s.reference, s.state, s.ended_why,
           coalesce((select json_agg(json_build_array(i.number, i.kind, i.period_from, i.total, i.collected, i.credit_used, i.credited, i.state) order by i.id)
             from invoices i where i.subscription_id = s.id), '[]') as invoices,
           coalesce((select json_agg(json_build_array(k.state, k.next_rung) order by k.id)
             from recovery_cases k where k.subscription_id = s.id), '[]') as cases,
           coalesce((select json_agg(l.event order by l.event, l.id) from letters l where l.subscription_id = s.id), '[]') as letters
         from subscriptions s order by s.reference`,
      ),
      books: await db.rows(
        `select a.kind, a.code, l.currency, sum(l.amount)::text as holds, count(*)::int as lines
         from journal_lines l join accounts a on a.id = l.account_id group by 1, 2, 3 order by 1, 2, 3`,
      ),
      charges: this.charges()
        .map(({ token, amount, state, code }) => `${token} ${amount} ${state} ${code}`)
        .sort(),
      refunds: await db.rows(
        `select c.reference, f.means, f.amount::text, f.state from refunds f join customers c on c.id = f.customer_id order by 1, 2, 3`,
      ),
      refundsAtGateway: [...this.gateway.vault.accounts.keys()]
        .flatMap((account) => this.gateway.vault.refundsOf(account))
        .map(({ amount, state }) => `${amount} ${state}`)
        .sort(),
      credit: await db.rows(
        `select c.reference, b.credit::text from credit_balances b join customers c on c.id = b.customer_id order by 1`,
      ),
    };
  }

  private charges() {
    return [...this.gateway.vault.accounts.keys()].flatMap((account) => [
      ...this.gateway.vault.chargesOf(account),
    ]);
  }

  /** Whatever is not as it must be at the end of a run. */
  private async wrong(): Promise<string[]> {
    const { db } = this.almanac;
    const wrong: string[] = [];
    for (const { rule, breaches } of await verify(this.almanac))
      wrong.push(...breaches.map((breach) => `${rule}: ${breach}`));
    const keys = this.charges().map(({ key }) => key);
    if (new Set(keys).size !== keys.length) wrong.push('a charge is twice in the record of the gateway');
    const left = await db.rows<{ says: string }>(
      `select 'attempt ' || id || ' is ' || state as says from attempts where state in ('under way', 'refused')
       union all select 'refund ' || id || ' is under way' from refunds where state = 'under way'
       union all select 'held: ' || says from needs where kind = 'held'
       union all select 'foreign: ' || says from needs where kind = 'charge does not match'
       union all select 'a batch of ' || step || ' is left' from run_batches`,
    );
    wrong.push(...left.map(({ says }) => says));
    wrong.push(...(await this.lettersWrong()));
    return wrong;
  }

  /** Waits until every letter is sent, and holds the letterbook against what the mail host was handed. */
  private async lettersWrong(): Promise<string[]> {
    const { db } = this.almanac;
    const end = Date.now() + 60_000;
    for (;;) {
      const waiting = await db.row<{ n: number }>(
        `select count(*)::int as n from letters where state = 'queued'`,
      );
      if (waiting?.n === 0) break;
      if (Date.now() > end) return [`${waiting?.n} letters are still waiting`];
      await pause(20);
    }
    const letters = await db.rows<{ id: string; state: string }>('select id::text, state from letters');
    const { instance } = (await db.row<{ instance: string }>('select instance::text from business')) ?? {
      instance: '',
    };
    const named = new RegExp(`^<letter-${instance}-([0-9]+)@`);
    const taken = new Set([...this.mail.taken.keys()].flatMap((id) => named.exec(id)?.[1] ?? []));
    const wrong = letters
      .filter(({ id }) => !taken.has(id))
      .map(({ id }) => `letter ${id} was never handed over`);
    if (taken.size !== letters.length)
      wrong.push(`${taken.size} letters were handed over, ${letters.length} were written`);
    return wrong;
  }
}
