import { join } from 'node:path';
import { Agent, request } from 'undici';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { startCluster } from '../cluster.ts';
import { ROOT } from '../settings.ts';
import { asStaff } from './asStaff.ts';
import { peakMb, type Bench } from './BenchedBusiness.ts';
import { benchedHistory, HISTORY_DAY, withCreditNotes } from './BenchedHistory.ts';
import type { BenchOptions } from './options.ts';
import { runMeasured } from './runMeasured.ts';

const FOLDER = join(ROOT, '.almanac', 'bench');
const PORT = 26_990;
const TIMES = 20;

/** What is asked, by what it is called, with the milliseconds that it may take. */
type Asked = readonly [name: string, path: string, most: number];

/** `almanac bench lists`: how long the server takes for what every screen asks, with a year of history behind it. */
export async function benchLists({ quick = false, json = false, of }: BenchOptions): Promise<void> {
  const say = (text: string) => (json ? console.error(text) : console.log(text));
  const count = of ? Number(of) : quick ? 10_000 : 100_000;
  const cluster = await startCluster(join(FOLDER, 'postgres'), PORT);
  try {
    const bench = await benchedHistory(cluster, FOLDER, count, PORT + 1, say);
    try {
      const figures = await withCreditNotes(bench, () => measured(bench, say));
      // The stand-in has none of the charges of a history that was built by SQL: that is named, and nothing else.
      const { seconds, peakMb: memory } = await runMeasured(['verify'], bench.environment, { mayFail: true });
      Object.assign(figures, { verifySeconds: round(seconds), verifyPeakMb: memory });
      say(
        `${'verify'.padEnd(34)} ${String(round(seconds)).padStart(7)} s, ${memory} MB   (asked: under 60 s, 300 MB)`,
      );
      if (json) console.log(JSON.stringify(figures));
    } finally {
      await bench.end();
    }
  } finally {
    cluster.stop();
  }
}

async function measured(bench: Bench, say: (text: string) => void): Promise<Record<string, number>> {
  const server = await bench.startServer();
  const { name, value } = await asStaff(bench);
  const cookie = `${name}=${value}`;
  const agent = new Agent({ connections: 20 });
  const origin = bench.environment.ALMANAC_URL ?? '';
  const get = async (path: string): Promise<{ ms: number; body: unknown }> => {
    const began = performance.now();
    const { statusCode, body } = await request(`${origin}${path}`, {
      dispatcher: agent,
      headers: { cookie, 'X-Almanac': '1' },
    });
    const text = await body.text();
    if (statusCode !== 200) throw new Error(`${path} was answered ${statusCode}: ${text.slice(0, 200)}`);
    return { ms: performance.now() - began, body: JSON.parse(text) };
  };
  const figures: Record<string, number> = {};
  let worst = 0;
  for (const [name, path, most] of await allAsked(bench, get)) {
    const times: number[] = [];
    for (let n = 0; n < TIMES; n += 1) times.push((await get(path)).ms);
    const ms = round(middle(times));
    figures[name] = ms;
    worst = Math.max(worst, ms / most);
    say(`${name.padEnd(34)} ${String(ms).padStart(7)} ms${ms > most ? `   (asked: under ${most})` : ''}`);
  }
  figures.lightP95Ms = round(await lightBesideHeavy(get));
  say(
    `${'a light one beside ten heavy, p95'.padEnd(34)} ${String(figures.lightP95Ms).padStart(7)} ms   (asked: under 100)`,
  );
  figures.serverPeakMb = peakMb(server);
  say(`${'server'.padEnd(34)} ${String(figures.serverPeakMb).padStart(7)} MB   (asked: under 300)`);
  const lists = Object.entries(figures).filter(([name]) => name.includes(', '));
  figures.worstMs = Math.max(...lists.map(([, ms]) => ms));
  say(`${'the slowest list'.padEnd(34)} ${String(figures.worstMs).padStart(7)} ms`);
  await agent.close();
  return figures;
}

const round = (ms: number) => Math.round(ms * 10) / 10;
const middle = (values: readonly number[]) =>
  values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

/** What lists are asked for: by path, the orders, a state to filter by and something to look for. */
const LISTS: Readonly<
  Record<string, { sorts: readonly string[]; state: string; search: string; rare: string }>
> = {
  subscriptions: {
    sorts: ['customer', 'plan', 'state', 'starts', 'next'],
    state: 'overdue',
    search: 'Larkspur',
    rare: 'Wren Tansy 7',
  },
  customers: {
    sorts: ['name', 'email', 'since'],
    state: 'overdue',
    search: 'Larkspur',
    rare: 'person77@',
  },
  cases: {
    sorts: ['opened', 'customer', 'next', 'owed'],
    state: 'open',
    search: 'Larkspur',
    rare: 'Wren Tansy 7',
  },
  invoices: {
    sorts: ['number', 'due', 'issued', 'amount', 'owed', 'customer'],
    state: 'overdue',
    search: 'Larkspur',
    rare: 'Wren Tansy 7',
  },
  payments: {
    sorts: ['made', 'amount', 'customer'],
    state: 'declined',
    search: 'Larkspur',
    rare: 'Wren Tansy 7',
  },
  'credit-notes': {
    sorts: ['number', 'issued', 'amount', 'customer'],
    state: 'correction',
    search: 'Larkspur',
    rare: 'Wren Tansy 7',
  },
  letters: {
    sorts: ['written', 'customer'],
    state: 'receipt',
    search: 'Larkspur',
    rare: 'Wren Tansy 7',
  },
  plans: {
    sorts: ['name', 'subscribers', 'monthly'],
    state: 'can be sold',
    search: 'Meadow',
    rare: 'Orchard',
  },
};

async function allAsked(bench: Bench, get: (path: string) => Promise<{ body: unknown }>): Promise<Asked[]> {
  const asked: Asked[] = [];
  for (const [list, { sorts, state, search, rare }] of Object.entries(LISTS)) {
    const path = list === 'plans' ? '/api/plan-list' : `/api/${list}`;
    const { pages } = (await get(path)).body as { pages: number };
    asked.push([`${list}, first page`, path, 100], [`${list}, last page`, `${path}?page=${pages}`, 100]);
    asked.push([`${list}, middle page`, `${path}?page=${Math.ceil(pages / 2)}`, 100]);
    for (const sort of sorts)
      asked.push(
        [`${list}, by ${sort}`, `${path}?sort=${sort}`, 100],
        [`${list}, by ${sort}, down`, `${path}?sort=-${sort}`, 100],
      );
    asked.push([`${list}, filtered`, `${path}?state=${state}`, 100]);
    asked.push(
      [`${list}, search`, `${path}?search=${search}`, 100],
      [`${list}, search for one`, `${path}?search=${rare}`, 100],
    );
    asked.push([`${list}, search for two letters`, `${path}?search=wr`, 100]);
  }
  asked.push(
    ['subscriptions, as the list opens', '/api/subscriptions?state=not%20ended', 100],
    ['subscriptions, not ended, by next', '/api/subscriptions?state=not%20ended&sort=next', 100],
    ['what happened with a customer', '/api/customers/77/timeline', 50],
  );
  asked.push([
    'subscriptions, by date',
    `/api/subscriptions?dated=overdue&from=2027-12-01&until=2028-02-01`,
    100,
  ]);
  const first = toDay(HISTORY_DAY) - 19;
  asked.push(['rail', `/api/rail?from=${formatDay(first)}&to=${formatDay(first + 41)}`, 30]);
  asked.push(['day sheet', `/api/days/${HISTORY_DAY}`, 100]);
  asked.push(['day sheet of a past day', `/api/days/2027-12-10`, 100]);
  asked.push(['day sheet, more rows', `/api/days/2027-12-10/collected?page=3`, 100]);
  for (const text of ['Larkspur', 'wren tansy 7', '500', '33.00', 'person777@post.example', 'meadow'])
    asked.push([`find ${text}`, `/api/find?text=${encodeURIComponent(text)}`, 50]);
  asked.push(
    ['invoices, by number', '/api/invoices?search=4711', 100],
    ['invoices, of some days', '/api/invoices?dated=due&from=2027-12-01&until=2027-12-03', 100],
    ['invoices, written off', '/api/invoices?state=written%20off', 100],
    ['payments, of some days', '/api/payments?dated=made&from=2027-12-01&until=2027-12-03', 100],
    ['payments, by hand', '/api/payments?kind=cash', 100],
    ['payments, refunded', '/api/payments?state=refunded', 100],
    ['invoice', '/api/invoices/4711', 50],
    ['payment', '/api/payments/4711', 50],
  );
  const one = await bench.almanac.db.row<{ id: string; customer: string }>(
    `select id::text, customer_id::text as customer from subscriptions where state = 'overdue' order by id offset 5 limit 1`,
  );
  asked.push(
    ['subscription', `/api/subscriptions/${one?.id}`, 50],
    ['customer', `/api/customers/${one?.customer}`, 50],
  );
  asked.push(['business', '/api/business', 50]);
  return asked;
}

/** The 95th of a hundred light requests, in milliseconds, while ten others ask for the heaviest things without a pause. */
async function lightBesideHeavy(get: (path: string) => Promise<{ ms: number }>): Promise<number> {
  const heavy = [
    '/api/customers?search=wr',
    '/api/subscriptions?sort=-plan',
    '/api/plans',
    `/api/days/2027-12-10`,
    '/api/letters?sort=customer',
  ];
  let busy = true;
  const others = Array.from({ length: 10 }, async (_, n) => {
    while (busy) await get(heavy[n % heavy.length] ?? '');
  });
  const times: number[] = [];
  for (let n = 0; n < 100; n += 1) times.push((await get('/api/business')).ms);
  busy = false;
  await Promise.all(others);
  return times.toSorted((a, b) => a - b)[94] ?? 0;
}
