import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import type { JoinMessage, Quote } from '../../server/signUp/messages.ts';
import { signUpPageSchema } from '../../server/signUp/messages.ts';
import { makeSignUpPage, switchSignUpPage } from '../../server/signUp/pages.ts';
import { quote } from '../../server/signUp/quote.ts';
import { startCluster } from '../cluster.ts';
import { ROOT } from '../settings.ts';
import { Bench } from './BenchedBusiness.ts';
import type { BenchOptions } from './options.ts';

const FOLDER = join(ROOT, '.almanac', 'bench');
const PORT = 26_990;
const AT_ONCE = 100;
/** What is asked for: 95 of 100 are answered within so long. */
const ASKED_MS = 1000;

/** `almanac bench join`: a hundred customers who join at the same moment: none lost, none twice, and how long they wait. */
export async function benchJoins({ quick = false, json = false }: BenchOptions): Promise<void> {
  const say = (text: string) => (json ? console.error(text) : console.log(text));
  const cluster = await startCluster(join(FOLDER, 'postgres'), PORT);
  try {
    const bench = await Bench.open(cluster, FOLDER, 'bench_join', PORT + 1);
    try {
      const key = await openPage(bench);
      await bench.startServer();
      const rounds: Round[] = [];
      // The first is of a server that has answered nothing yet, and is said by itself.
      for (let n = 0; n < (quick ? 2 : 6); n += 1) rounds.push(await joinAtOnce(bench, key, n));
      const [cold, ...warm] = rounds;
      const all = warm.flatMap(({ ms }) => ms).toSorted((a, b) => a - b);
      const at = (part: number) => Math.round(all[Math.floor(all.length * part)] ?? 0);
      const lost = rounds.reduce((sum, one) => sum + one.lost, 0);
      const twice = rounds.reduce((sum, one) => sum + one.twice, 0);
      const first = Math.round((cold?.ms ?? []).toSorted((a, b) => a - b)[Math.floor(AT_ONCE * 0.95)] ?? 0);
      say(`${AT_ONCE} customers who join at once, ${rounds.length} times:`);
      say(`  half of them are answered within  ${at(0.5)} ms`);
      say(`  95 of 100 within                  ${at(0.95)} ms   (asked: under ${ASKED_MS})`);
      say(`  95 of the very first 100 within   ${first} ms`);
      say(`  lost ${lost}, twice ${twice}   (asked: none)`);
      if (json) console.log(JSON.stringify({ p50: at(0.5), p95: at(0.95), firstP95: first, lost, twice }));
    } finally {
      await bench.end();
    }
  } finally {
    cluster.stop();
  }
}

interface Round {
  /** How long each waited, milliseconds. */
  readonly ms: readonly number[];
  readonly lost: number;
  readonly twice: number;
}

/** Makes a page of the one rate of the benchmark, and opens it; gives its address. */
export async function openPage({ almanac }: Bench): Promise<string> {
  const rate = await almanac.db.row<{ id: string }>('select min(id)::text as id from rates');
  const id = rate?.id ?? '';
  const texts = { en: { title: 'Join' } };
  const page = await makeSignUpPage(
    almanac,
    signUpPageSchema.parse({ key: 'bench', rates: [id], firstRate: id, texts }),
  );
  await switchSignUpPage(almanac, page.id, true);
  return 'bench';
}

async function joinAtOnce(bench: Bench, key: string, round: number): Promise<Round> {
  const { almanac, environment } = bench;
  const rate = await almanac.db.row<{ id: string }>('select min(id)::text as id from rates');
  const choice = { rateId: rate?.id ?? '', extras: {}, answers: {}, codes: [] };
  const asked = { choice, country: '', region: '', pays: 'card' } as const;
  const { dues }: Quote = await quote(almanac, key, asked, false);
  const messages = Array.from({ length: AT_ONCE }, (_, n): JoinMessage => ({
    ...{ visit: randomUUID(), version: 1, language: 'en', pays: 'card', choice, shown: [...dues] },
    cardToken: `joiner-${round}-${n}`,
    customer: { name: `Joiner ${round} ${n}`, email: `joiner${n}.${round}@post.example` },
  }));
  await bench.takeOver(messages.map(({ cardToken = '' }) => cardToken));
  const charged = await bench.chargesMade();
  const ms = await Promise.all(
    messages.map(async (message, n) => {
      const began = performance.now();
      const answer = await fetch(`${environment.ALMANAC_URL}/api/join/${key}/joining`, {
        method: 'POST',
        headers: {
          ...{ 'Content-Type': 'application/json', 'X-Almanac': '1' },
          'X-Forwarded-For': `198.51.${100 + round}.${n}`,
        },
        body: JSON.stringify(message),
      });
      const body = (await answer.json()) as { charged?: { outcome: string }; detail?: string };
      if (body.charged?.outcome !== 'collected') console.error(answer.status, JSON.stringify(body));
      return performance.now() - began;
    }),
  );
  const found = await almanac.db.row<{ n: number; people: number }>(
    `select count(*)::int as n, count(distinct c.id)::int as people
     from customers c join subscriptions s on s.customer_id = c.id where c.name like $name`,
    { name: `Joiner ${round} %` },
  );
  const made = (await bench.chargesMade()) - charged;
  const { n = 0, people = 0 } = found ?? {};
  return { ms, lost: AT_ONCE - Math.min(people, made), twice: Math.max(n, made) - AT_ONCE };
}
