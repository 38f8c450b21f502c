import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { createTransport } from 'nodemailer';
import pMap from 'p-map';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { MailRoute } from '../../server/notices/mailRoute.ts';
import { Mailing } from '../../server/notices/mailing.ts';
import { STORED, STORED_FROM, writtenOut, type StoredLetter } from '../../server/notices/written.ts';
import { PageTurn } from '../../server/run/PageTurn.ts';
import { turnDay } from '../../server/run/turnDay.ts';
import { askForTurn } from '../../server/run/turnPages.ts';
import { startCluster, type Cluster } from '../cluster.ts';
import { ROOT } from '../settings.ts';
import { Bench, peakMb } from './BenchedBusiness.ts';
import type { BenchOptions } from './options.ts';
import { bareHttp, plainSql } from './roofline.ts';

const FOLDER = join(ROOT, '.almanac', 'bench');
/** Below those that the system gives to connections, one of which might have it. */
const PORT = 26_990;
const LANES = 32;

/** What is measured; the ratios are of the product to what the machine does bare, in the same run. */
interface Figures {
  ratio: number;
  ratioWithWebhooks: number;
  renewalsPerSecond: number;
  sqlPerSecond: number;
  httpPerSecond: number;
  statementsPerRenewal: number;
  workerPeakMb: number;
  workerPeakMbMany: number;
  serverPeakMb: number;
  dueCostRatio: number;
  twoWorkersRatio: number;
  idleMs: number;
  lettersRatio: number;
  lettersPerSecond: number;
  bytesPerRenewal: number;
}

/** `almanac bench run`: days turned, charges made and letters sent, measured against what this machine does bare. */
export async function benchRun({ quick = false, json = false }: BenchOptions): Promise<void> {
  const say = (text: string) => (json ? console.error(text) : console.log(text));
  const size = quick
    ? { renewals: 2_000, many: 0, all: 100_000, due: 2_000, slow: 1_000, letters: 1_000, rounds: 3 }
    : { renewals: 10_000, many: 50_000, all: 1_000_000, due: 10_000, slow: 4_000, letters: 4_000, rounds: 3 };
  const cluster = await startCluster(join(FOLDER, 'postgres'), PORT, { counting: true });
  const figures: Partial<Figures> = {};
  try {
    await throughput(cluster, size, figures, say);
    await twoWorkers(cluster, size, figures, say);
    await letters(cluster, size, figures, say);
    await manySubscriptions(cluster, size, figures, say);
  } finally {
    cluster.stop();
  }
  if (json) console.log(JSON.stringify(figures));
}

interface Size {
  readonly renewals: number;
  readonly many: number;
  readonly all: number;
  readonly due: number;
  readonly slow: number;
  readonly letters: number;
  readonly rounds: number;
}
type Say = (text: string) => void;

const middle = (values: readonly number[]) =>
  values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
const whole = (value: number) => Math.round(value).toLocaleString('en');

/** Turns the page of one day through the workers that run, and gives how many seconds that took. */
async function turn({ almanac }: Bench, day: string): Promise<number> {
  await almanac.db.rows('update business set business_date = $day', { day });
  const began = performance.now();
  const { id } = await askForTurn(almanac, formatDay(toDay(day) + 1));
  while ((await PageTurn.findByPk(id, { rejectOnEmpty: true })).state !== 'done') await pause(20);
  return (performance.now() - began) / 1000;
}

async function paidOn({ almanac }: Bench, day: string): Promise<number> {
  const row = await almanac.db.row<{ n: number }>(
    'select count(*)::int as n from payments where paid_on = $day',
    { day },
  );
  return row?.n ?? 0;
}

/** Turns the day of one month, on which everybody renews, and gives how many renewals a second that were. */
async function renewals(bench: Bench, month: number, count: number): Promise<number> {
  const day = Bench.dayOf(month);
  const seconds = await turn(bench, day);
  const paid = await paidOn(bench, day);
  if (paid !== count) throw new Error(`${paid} of ${count} renewals were paid.`);
  return count / seconds;
}

/** As many charges asked of the gateway bare, and how many a second that were. */
function charges({ environment }: Bench, count: number): Promise<number> {
  const tokens = Array.from({ length: count }, (_, i) => `bench-card-${i + 1}`);
  return bareHttp(environment.GATEWAY_URL ?? '', environment.GATEWAY_SECRET_KEY ?? '', LANES, tokens);
}

/** The rate of renewals from end to end, beside plain SQL and bare HTTP; statements, memory and bytes of the same runs. */
async function throughput(cluster: Cluster, size: Size, figures: Partial<Figures>, say: Say): Promise<void> {
  // One business at a time is open in a process.
  const beside = await Bench.open(cluster, FOLDER, 'bench_sql', PORT + 3);
  await beside.addSubscriptions(size.renewals, false);
  await beside.end();
  const bench = await Bench.open(cluster, FOLDER, 'bench_run', PORT + 1);
  try {
    await bench.addSubscriptions(size.renewals, true);
    await bench.tellNobody();
    const worker = await bench.startWorker('worker', { GATEWAY_LANES: String(LANES) });
    const rates: Record<'run' | 'sql' | 'http', number[]> = { run: [], sql: [], http: [] };
    const { db } = bench.almanac;
    await db.rows('create extension if not exists pg_stat_statements');
    const before = await statementsSoFar(bench);
    let looking = 0;
    for (let round = 1; round <= size.rounds; round += 1) {
      rates.run.push(await renewals(bench, round, size.renewals));
      const pausing = await statementsSoFar(bench);
      rates.http.push(await charges(bench, size.renewals));
      if (round === 1)
        for (let n = 0; n < size.rounds; n += 1)
          rates.sql.push(await plainSql(cluster.url('bench_run'), cluster.url('bench_sql')));
      // As happens by itself between two days: what rows have left behind is used again.
      await vacuum(bench);
      looking += (await statementsSoFar(bench)) - pausing;
      say(
        `round ${round}: ${whole(rates.run.at(-1) ?? 0)} renewals a second; bare HTTP ${whole(rates.http.at(-1) ?? 0)}`,
      );
    }
    const all = size.renewals * size.rounds;
    figures.statementsPerRenewal = round2(((await statementsSoFar(bench)) - before - looking) / all);
    figures.bytesPerRenewal = Math.round((await bytesOfRenewals(bench)) / all);
    figures.workerPeakMb = peakMb(worker);
    figures.renewalsPerSecond = Math.round(middle(rates.run));
    figures.sqlPerSecond = Math.round(middle(rates.sql));
    figures.httpPerSecond = Math.round(middle(rates.http));
    figures.ratio = round2(middle(rates.run) / Math.min(middle(rates.sql), middle(rates.http)));
    say(
      `renewals       ${whole(figures.renewalsPerSecond)} a second; plain SQL ${whole(figures.sqlPerSecond)}, bare HTTP ${whole(figures.httpPerSecond)}; ratio to the slower ${figures.ratio} (asked: 0.5)`,
    );
    say(`statements     ${figures.statementsPerRenewal} a renewal (asked: under 1)`);
    say(
      `bytes          ${whole(figures.bytesPerRenewal)} a renewal, indexes included, without letters (asked: under 2,500)`,
    );
    // As it is in production: the gateway also tells the web server, on the same machine, of every charge.
    const server = await bench.startServer();
    await bench.tellOfCharges();
    const told = await renewals(bench, size.rounds + 1, size.renewals);
    const bare = await charges(bench, size.renewals);
    figures.ratioWithWebhooks = round2(told / Math.min(middle(rates.sql), bare));
    say(
      `with webhooks  ${whole(told)} a second, the web server beside it being told of every charge; bare HTTP, told likewise, ${whole(bare)}; ratio ${figures.ratioWithWebhooks}`,
    );
    figures.serverPeakMb = peakMb(server);
    await bench.tellNobody();
    if (size.many > 0) {
      await db.rows(`truncate customers, days, planned_charges, day_sums cascade`);
      await bench.addSubscriptions(size.many, true);
      const seconds = await turn(bench, Bench.dayOf(1));
      say(`many           ${whole(size.many / seconds)} a second with ${whole(size.many)} due`);
    }
    figures.workerPeakMbMany = peakMb(worker);
    say(
      `memory         worker ${figures.workerPeakMb} MB after ${whole(size.renewals)}, ${figures.workerPeakMbMany} MB after ${whole(size.many || size.renewals)}; server ${figures.serverPeakMb} MB (asked: flat, under 400)`,
    );
  } finally {
    await bench.end();
  }
}

const round2 = (value: number) => Math.round(value * 100) / 100;

async function statementsSoFar({ almanac }: Bench): Promise<number> {
  const row = await almanac.db.row<{ calls: number }>(
    'select sum(calls)::float as calls from pg_stat_statements s join pg_database d on d.oid = s.dbid where d.datname = current_database()',
  );
  return row?.calls ?? 0;
}

const FILLED = ['invoices', 'attempts', 'payments', 'journal'];

async function vacuum({ almanac }: Bench): Promise<void> {
  for (const name of FILLED) await almanac.db.sequelize.query(`vacuum ${name}`);
}

/** What the tables that renewals fill take, with their indexes; letters and what is written once a customer apart. */
async function bytesOfRenewals({ almanac }: Bench): Promise<number> {
  const tables = [...FILLED];
  const row = await almanac.db.row<{ bytes: string }>(
    'select sum(pg_total_relation_size(name::regclass))::text as bytes from unnest($tables::text[]) as name',
    { tables },
  );
  return Number(row?.bytes ?? 0);
}

/** One worker and two, with a gateway that takes 50 ms for each charge: what counts is how many are asked side by side. */
async function twoWorkers(cluster: Cluster, size: Size, figures: Partial<Figures>, say: Say): Promise<void> {
  const lanes = { GATEWAY_LANES: '16' };
  const bench = await Bench.open(cluster, FOLDER, 'bench_two', PORT + 5);
  try {
    await bench.addSubscriptions(size.slow, true);
    await bench.atGateway('PUT', '/practice/faults', { slowMs: 50 });
    await bench.startWorker('worker', lanes);
    await bench.tellNobody();
    const times: Record<'one' | 'two', number[]> = { one: [], two: [] };
    for (let month = 1; month <= size.rounds * 2; month += 1) {
      if (month === size.rounds + 1) await bench.startWorker('second worker', lanes);
      times[month <= size.rounds ? 'one' : 'two'].push(await turn(bench, Bench.dayOf(month)));
    }
    const [one, two] = [middle(times.one), middle(times.two)];
    await bench.atGateway('PUT', '/practice/faults', {});
    const charges = await bench.chargesMade();
    if (charges !== size.slow * size.rounds * 2)
      throw new Error(`The gateway made ${charges} charges for ${size.slow * size.rounds * 2} renewals.`);
    figures.twoWorkersRatio = round2(one / two);
    say(
      `two workers    ${whole(size.slow / one)} a second with one, ${whole(size.slow / two)} with two, the gateway at 50 ms, 16 lanes each: ${figures.twoWorkersRatio} times (asked: 1.6); each charge once`,
    );
  } finally {
    await bench.end();
  }
}

/** Letters through the product, and the very same letters handed to the mail stand-in bare, over as many connections. */
async function letters(cluster: Cluster, size: Size, figures: Partial<Figures>, say: Say): Promise<void> {
  const bench = await Bench.open(cluster, FOLDER, 'bench_letters', PORT + 7);
  const smtp = PORT + 9;
  try {
    const environment = { MAIL_PORT: String(smtp), MAIL_FOLDER: join(FOLDER, `mail-${Date.now()}`) };
    await bench.parts.start('mail stand-in', ['standins/mail/main.ts'], environment, 'mail stand-in on port');
    await bench.addSubscriptions(size.letters, true);
    await turnDay(bench.almanac, Bench.dayOf(1));
    const almanac = {
      ...bench.almanac,
      config: { ...bench.almanac.config, SMTP_URL: `smtp://127.0.0.1:${smtp}` },
    };
    const route = new MailRoute(almanac);
    const { rows } = {
      rows: await almanac.db.rows<StoredLetter & { to_address: string }>(
        `select l.to_address, ${STORED} from ${STORED_FROM} order by l.id`,
      ),
    };
    const composed = rows.map((row) => ({ to: row.to_address, ...writtenOut(row) }));
    const ratios: number[] = [];
    let mine = 0;
    for (let round = 0; round < size.rounds; round += 1) {
      await almanac.db.rows(`update letters set state = 'queued', sent_at = null`);
      const began = performance.now();
      const sent = await new Mailing(almanac, route).round();
      mine = sent / ((performance.now() - began) / 1000);
      const transporter = createTransport({
        host: '127.0.0.1',
        port: smtp,
        pool: true,
        maxConnections: 8,
        maxMessages: 1000,
        ignoreTLS: true,
      } as never);
      const bare = performance.now();
      await pMap(
        composed,
        ({ to, subject, html, plain }, i) =>
          transporter.sendMail({
            messageId: `<bare-${round}-${i}@fenmarsh-hives.example>`,
            ...{ from: 'accounts@fenmarsh-hives.example', to, subject, html, text: plain },
          }),
        { concurrency: 16 },
      );
      ratios.push(mine / (composed.length / ((performance.now() - bare) / 1000)));
      transporter.close();
    }
    route.close();
    figures.lettersRatio = round2(middle(ratios));
    figures.lettersPerSecond = Math.round(mine);
    say(
      `letters        ${whole(mine)} a second; ratio to bare SMTP over as many connections ${figures.lettersRatio} (asked: 0.6)`,
    );
  } finally {
    await bench.end();
  }
}

/** What a day costs among a million subscriptions: with nothing due, and with some due, beside the same some alone. */
async function manySubscriptions(
  cluster: Cluster,
  size: Size,
  figures: Partial<Figures>,
  say: Say,
): Promise<void> {
  const alone = await Bench.open(cluster, FOLDER, 'bench_alone', PORT + 13);
  await alone.addSubscriptions(size.due, true);
  const few = await dueDays(alone, size);
  await alone.end();
  const name = `bench_of_${size.all}`;
  const kept = existsSync(join(FOLDER, name));
  const all = await Bench.open(cluster, FOLDER, name, PORT + 11, true);
  try {
    if (!kept) {
      const began = performance.now();
      for (let n = 0; n < size.all; n += 50_000)
        await all.addSubscriptions(Math.min(50_000, size.all - n), false);
      await all.addSubscriptions(size.due, true);
      await all.almanac.db.sequelize.query('vacuum analyze');
      all.keep(name);
      say(`${whole(size.all)} subscriptions built in ${whole((performance.now() - began) / 1000)} s`);
    }
    const idle: number[] = [];
    for (let n = 0; n < 15; n += 1) {
      const began = performance.now();
      await turnDay(all.almanac, '2027-01-16');
      idle.push(performance.now() - began);
    }
    figures.idleMs = Math.round(middle(idle));
    say(
      `idle           a day with nothing due among ${whole(size.all)} subscriptions: ${figures.idleMs} ms (asked: under 1,000; a minute's look under 20)`,
    );
    const many = await dueDays(all, size);
    figures.dueCostRatio = round2(middle(many) / middle(few));
    say(
      `due            ${whole(size.due)} due of ${whole(size.all)} against ${whole(size.due)} of ${whole(size.due)}: ${figures.dueCostRatio} (asked: at most 1.3)`,
    );
    // As it was, for the next run.
    await all.almanac.db.rows(`delete from days`);
  } finally {
    await all.end();
  }
}

/** How long days take on which the newest subscriptions are due. */
async function dueDays({ almanac }: Bench, size: Size): Promise<number[]> {
  const last = await almanac.db.row<{ at: number }>(
    `select count(distinct paid_on)::int as at from payments`,
  );
  const times: number[] = [];
  for (let round = 1; round <= size.rounds; round += 1) {
    const day = Bench.dayOf((last?.at ?? 0) + round);
    const began = performance.now();
    await turnDay(almanac, day);
    times.push(performance.now() - began);
  }
  return times;
}
