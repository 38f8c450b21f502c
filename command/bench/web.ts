import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { gzipSync } from 'node:zlib';
import { chromium, type Browser } from '@playwright/test';
import { turnDay } from '../../server/run/turnDay.ts';
import { buildInterface } from '../build.ts';
import { startCluster } from '../cluster.ts';
import { ROOT } from '../settings.ts';
import { openPage } from './joins.ts';
import { asStaff } from './asStaff.ts';
import { Bench } from './BenchedBusiness.ts';
import type { BenchOptions } from './options.ts';

const FOLDER = join(ROOT, '.almanac', 'bench');
const PORT = 26_990;
/** Kilobytes of JavaScript, gzipped: of the first screen and of lists, and of any other. */
const [FEW_KB, MOST_KB] = [200, 300];
/** Of a page on which customers join: they come on telephones. */
const JOIN_KB = 100;
const JOINS = ['/join/bench', '/join/bench/plans'];
const MOST_FILES = 12;
/** A page on which nothing is asked for so long is there. */
const QUIET_MS = 700;

/** The routes of the desk; `1` is the first of whatever a route shows. */
const FIRST = ['/', '/days/2027-01-20', '/days/2027-01-01/to/2027-01-31'];
const LISTS = [
  '/subscriptions',
  '/customers',
  '/cases',
  '/letters',
  '/plans',
  '/rate-cards',
  '/discounts',
  '/sign-up-pages',
];
const OTHERS = [
  ...['/customers/1', '/subscriptions/1', '/enrol', '/plans/1', '/plans/1/edit', '/plans/new', '/plans/file'],
  ...['/plans/1/rates/1', '/plans/1/rates/new', '/plans/1/rates/1/subscribers', '/plans/1/variants/new'],
  ...[
    '/rate-cards/new',
    '/sign-up-pages/new',
    '/sign-up-pages/1',
    '/sign-up-pages/1/edit',
    '/me',
    '/setup',
    '/no-such-page',
    '/own/no-such-link',
    '/rehearsal',
  ],
  ...[
    ...['business', 'look', 'invoices', 'customers', 'policies', 'gateways', 'recovery', 'taxes', 'calendar'],
    ...['people', 'mail', 'security', 'keys', 'audit'],
  ].map((name) => `/setup/${name}`),
];

interface Loaded {
  readonly kb: number;
  readonly files: number;
  readonly ms: number;
}

/** `almanac bench web`: what a browser that comes for the first time loads for each route. */
export async function benchWeb({ json = false }: BenchOptions): Promise<void> {
  const say = (text: string) => (json ? console.error(text) : console.log(text));
  await buildInterface(() => say('The interface is being built …'));
  const cluster = await startCluster(join(FOLDER, 'postgres'), PORT);
  try {
    const bench = await Bench.open(cluster, FOLDER, 'bench_web', PORT + 1);
    const browser = await chromium.launch({
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
      ],
    });
    try {
      await bench.addSubscriptions(60, true);
      await turnDay(bench.almanac, Bench.dayOf(1));
      await openPage(bench);
      await bench.startServer();
      const figures: Record<string, number> = {};
      let [worstKb, mostFiles] = [0, 0];
      for (const [routes, most] of [
        [[...FIRST, ...LISTS], FEW_KB],
        [OTHERS, MOST_KB],
        [JOINS, JOIN_KB],
      ] as const)
        for (const route of routes) {
          const { kb, files, ms } = await load(browser, bench, route);
          figures[route] = kb;
          worstKb = Math.max(worstKb, kb);
          mostFiles = Math.max(mostFiles, files);
          const beyond = [
            ...(kb > most ? [`asked: under ${most} kB`] : []),
            ...(files > MOST_FILES ? [`asked: at most ${MOST_FILES} files`] : []),
          ];
          say(
            `${route.padEnd(34)} ${String(kb).padStart(5)} kB in ${String(files).padStart(2)} files, there after ${String(ms).padStart(4)} ms` +
              (beyond.length > 0 ? `   (${beyond.join(', ')})` : ''),
          );
        }
      say(`the most: ${worstKb} kB of JavaScript (gzipped), ${mostFiles} files of all kinds`);
      if (json) console.log(JSON.stringify({ ...figures, worstKb, mostFiles }));
    } finally {
      await browser.close();
      await bench.end();
    }
  } finally {
    cluster.stop();
  }
}

/** Opens a route in a browser that has nothing yet, until nothing more is loaded. */
async function load(browser: Browser, bench: Bench, route: string): Promise<Loaded> {
  const home = bench.environment.ALMANAC_URL ?? '';
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  try {
    await context.addCookies([{ ...(await asStaff(bench)), url: home }]);
    const page = await context.newPage();
    const files = new Set<string>();
    let [open, last] = [0, performance.now()];
    const note = (more: number) => () => {
      open += more;
      last = performance.now();
    };
    page.on('request', note(1));
    for (const end of ['requestfinished', 'requestfailed'] as const)
      page.on(end as 'requestfinished', note(-1));
    page.on('response', (response) => {
      const { pathname } = new URL(response.url());
      if (!pathname.startsWith('/api/') && response.url().startsWith(home)) files.add(pathname);
    });
    const began = performance.now();
    await page.goto(`${home}${route}`);
    await page.locator('h1, main p').first().waitFor();
    const ms = Math.round(performance.now() - began);
    while (open > 0 || performance.now() - last < QUIET_MS) await pause(QUIET_MS / 10);
    const scripts = [...files].filter((path) => path.endsWith('.js'));
    const bytes = scripts.reduce(
      (sum, path) => sum + gzipSync(readFileSync(join(ROOT, 'dist', 'web', path))).length,
      0,
    );
    return { kb: Math.round(bytes / 1000), files: files.size, ms };
  } finally {
    await context.close();
  }
}
