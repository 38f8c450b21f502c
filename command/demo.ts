import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { toDay } from '../core/dates/day.ts';
import { sayDate } from '../core/words/date.ts';
import { beginBusiness } from '../server/business/beginBusiness.ts';
import { Business } from '../server/business/Business.ts';
import { DEMO_MARK } from '../server/config.ts';
import { migrate } from '../server/db/migrate.ts';
import { adoptGateway } from '../server/gateways/adopt.ts';
import { importFiles } from '../server/imports/importFiles.ts';
import { askForTurn } from '../server/run/turnPages.ts';
import { PageTurn } from '../server/run/PageTurn.ts';
import { migrateQueue } from '../server/run/worker.ts';
import { verify } from '../server/verify/verify.ts';
import { buildInterface } from './build.ts';
import { clusterFolders, startCluster, type Cluster } from './cluster.ts';
import { endLeftovers, recordProcesses } from './leftovers.ts';
import { demoSetup } from './demoSetup.ts';
import { sayProgress } from './importCommand.ts';
import { openAlmanac } from './open.ts';
import { Parts } from './parts.ts';
import { PlainFailure } from './sayAndExit.ts';
import { DEMO_ENVIRONMENT, DEMO_FOLDER, ROOT } from './settings.ts';
import { readBusiness } from './setupCommand.ts';
import { sayFindings } from './verifyCommand.ts';

/** `almanac demo`: everything, with the sample business, until Ctrl-C. What it stored is there the next time. */
export async function demo(options: { fresh?: boolean; port: string }): Promise<void> {
  const began = Date.now();
  const port = Number(options.port);
  if (!Number.isInteger(port) || port < 1 || port > 65_000)
    throw new PlainFailure('Give a port from 1 to 65000.');
  const ports = { web: port, gateway: port + 1, smtp: port + 2, database: port + 3, site: port + 4 };
  await endLeftovers();
  for (const [part, number] of Object.entries(ports)) await requireFree(number, part, options.port);
  // Only now: a demo that is running would have kept its ports, and keeps its data.
  if (options.fresh)
    for (const folder of [DEMO_FOLDER, ...clusterFolders(join(DEMO_FOLDER, 'postgres'))]) {
      rmSync(folder, { recursive: true, force: true });
    }
  mkdirSync(DEMO_FOLDER, { recursive: true });

  const parts = new Parts();
  let cluster: Cluster | null = null;
  const stop = async (code: number) => {
    await parts.stop();
    cluster?.stop();
    process.exit(code);
  };
  const onSignal = () => {
    console.log('\nStopping …');
    void stop(0);
  };
  process.once('SIGINT', onSignal);
  process.once('SIGTERM', onSignal);
  process.once('SIGHUP', onSignal);
  parts.onDeath((name) => {
    console.error(`The ${name} stopped by itself, so the demo stops too. Its last words are above.`);
    void stop(1);
  });

  try {
    say('the database');
    cluster = await startCluster(join(DEMO_FOLDER, 'postgres'), ports.database);
    await cluster.createDatabase('almanac');
    const environment = demoEnvironment(cluster.url('almanac'), ports);
    writeFileSync(DEMO_ENVIRONMENT, JSON.stringify(environment, null, 2), { mode: 0o600 });
    Object.assign(process.env, environment);
    await buildInterface(() => say('the interface is being built'));

    say('the stand-ins, the server and a worker');
    await Promise.all([
      parts.start('gateway stand-in', ['standins/gateway/main.ts'], environment, 'gateway stand-in on port'),
      parts.start('mail stand-in', ['standins/mail/main.ts'], environment, 'mail stand-in on port'),
      parts.start('example site', ['standins/site/main.ts'], environment, 'example site on port'),
    ]);
    recordProcesses(parts.processes());
    const almanac = await openAlmanac();
    await migrate(almanac.db.sequelize);
    await migrateQueue(almanac.config.DATABASE_URL);
    const file = readBusiness(join(ROOT, 'demo', 'business.json'));
    await beginBusiness(almanac, file, new Date());
    await adoptGateway(almanac, almanac.config.GATEWAY_SECRET_KEY);
    await Promise.all([
      parts.start('server', ['command/main.ts', 'serve'], environment, 'serving on'),
      parts.start('worker', ['command/main.ts', 'worker'], environment, 'worker at work'),
    ]);

    recordProcesses(parts.processes());

    const business = await Business.findOne({ rejectOnEmpty: true });
    const { practice } = file;
    if (practice && business.businessDate < practice.turnTo && !existsSync(join(DEMO_FOLDER, 'loaded'))) {
      say(`the sample business: plans and customers are imported`);
      await moveCards(environment);
      const names = ['plans.json', 'customers.csv'].map((name) => join(ROOT, 'demo', name));
      const files = names.map((name) => ({ name, path: name }));
      const report = await importFiles(almanac, files, { dryRun: false, progress: sayProgress });
      if (report.problems.length > 0) {
        throw new PlainFailure(
          report.problems.map(({ file, line, says }) => `${file}:${line}: ${says}`).join('\n'),
        );
      }
      await turnTo(almanac, practice.turnTo);
      say('its Setup');
      const { GATEWAY_DEBIT_SECRET_KEY = '', SITE_URL = '' } = environment;
      await demoSetup(almanac, GATEWAY_DEBIT_SECRET_KEY, SITE_URL);
      writeFileSync(join(DEMO_FOLDER, 'loaded'), '');
    }

    const findings = await verify(almanac);
    console.log(sayFindings(findings));
    await almanac.db.close();
    if (findings.some(({ breaches }) => breaches.length > 0))
      throw new PlainFailure('Not everything is as it must be.');
    const seconds = ((Date.now() - began) / 1000).toFixed(0);
    console.log(
      `\nKeen Almanac is ready after ${seconds} s: http://127.0.0.1:${port}\nA site that shows its sign-up pages: http://127.0.0.1:${ports.site}\nCtrl-C stops all of it; what it stored is kept.`,
    );
  } catch (error) {
    if (parts.isStopping()) return;
    console.error(error instanceof PlainFailure ? error.message : error);
    await stop(1);
  }
}

function say(what: string): void {
  console.log(`· ${what}`);
}

/** Turns pages through the worker, as an operator would, and shows how far it is. */
async function turnTo(almanac: Awaited<ReturnType<typeof openAlmanac>>, to: string): Promise<void> {
  const { businessDate: from } = await Business.findOne({ rejectOnEmpty: true });
  const days = toDay(to) - toDay(from);
  const began = Date.now();
  await askForTurn(almanac, to);
  for (let shown = -1; ;) {
    const business = await Business.findOne({ rejectOnEmpty: true });
    const done = days - (toDay(to) - toDay(business.businessDate));
    if (process.stdout.isTTY ? done !== shown : done >= shown + 60 || done === days) {
      const line = `· turning pages: ${sayDate(business.businessDate)}, ${done} of ${days} days, ${((Date.now() - began) / 1000).toFixed(0)} s`;
      process.stdout.write(process.stdout.isTTY ? `\r${line}${done === days ? '\n' : ''}` : `${line}\n`);
      shown = done;
    }
    if (
      business.businessDate >= to &&
      !(await PageTurn.findOne({ where: { state: ['turning', 'waiting'] } }))
    )
      return;
    await wait(200);
  }
}

/** Hands the sample customers' cards to the gateway, as they would come from another system. */
async function moveCards(environment: Record<string, string>): Promise<void> {
  const response = await fetch(new URL('/v1/moved-cards', environment.GATEWAY_URL), {
    method: 'POST',
    headers: {
      Authorization: `Bearer ${environment.GATEWAY_SECRET_KEY}`,
      'Content-Type': 'application/json',
    },
    body: readFileSync(join(ROOT, 'demo', 'cards.json'), 'utf8'),
  });
  if (!response.ok)
    throw new PlainFailure(`The gateway stand-in did not take the sample cards: ${await response.text()}`);
}

function demoEnvironment(
  databaseUrl: string,
  ports: Record<'web' | 'gateway' | 'smtp' | 'site', number>,
): Record<string, string> {
  const kept = existsSync(DEMO_ENVIRONMENT)
    ? (JSON.parse(readFileSync(DEMO_ENVIRONMENT, 'utf8')) as Record<string, string>)
    : {};
  const secret = (name: string, make: () => string) => kept[name] ?? make();
  const random = () => `${DEMO_MARK}${randomBytes(32).toString('base64url')}`;
  const web = `http://127.0.0.1:${ports.web}`;
  return {
    DATABASE_URL: databaseUrl,
    SMTP_URL: `smtp://127.0.0.1:${ports.smtp}`,
    GATEWAY_URL: `http://127.0.0.1:${ports.gateway}`,
    GATEWAY_SECRET_KEY: secret('GATEWAY_SECRET_KEY', random),
    GATEWAY_PUBLIC_KEY: secret('GATEWAY_PUBLIC_KEY', random),
    GATEWAY_DEBIT_SECRET_KEY: secret('GATEWAY_DEBIT_SECRET_KEY', random),
    GATEWAY_FILE: join(DEMO_FOLDER, 'gateway', 'record.jsonl'),
    GATEWAY_PORT: String(ports.gateway),
    // The stand-in is on this machine: what it has not answered in a quarter of a second it never will.
    GATEWAY_TIMEOUT_MS: '250',
    MAIL_FOLDER: join(DEMO_FOLDER, 'mail'),
    MAIL_PORT: String(ports.smtp),
    SITE_FOLDER: join(ROOT, 'demo', 'site'),
    SITE_PORT: String(ports.site),
    SITE_URL: `http://127.0.0.1:${ports.site}`,
    ALMANAC_SECRET: secret('ALMANAC_SECRET', random),
    ALMANAC_KEY: secret('ALMANAC_KEY', () => `${DEMO_MARK}${randomBytes(32).toString('base64')}`),
    ALMANAC_URL: web,
    ALMANAC_DEMO: 'true',
    PORT: String(ports.web),
    LOG_LEVEL: 'warn',
  };
}

async function requireFree(port: number, part: string, wanted: string): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    const probe = createServer();
    probe.once('error', () =>
      reject(
        new PlainFailure(
          `The port ${port} (${part}) is taken by another program. Stop it, or choose others: ./almanac demo --port ${Number(wanted) + 100}`,
        ),
      ),
    );
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve()));
  });
}
