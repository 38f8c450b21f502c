import { createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { stringify } from 'csv-stringify';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { startCluster } from '../cluster.ts';
import { ROOT } from '../settings.ts';
import { Bench } from './BenchedBusiness.ts';
import type { BenchOptions } from './options.ts';
import { runMeasured } from './runMeasured.ts';

const FOLDER = join(ROOT, '.almanac', 'bench');
const PORT = 26_990;

/** `almanac bench import`: how long customers with cards and subscriptions take to be brought in from a file, and how much memory. */
export async function benchImport({ quick = false, json = false, of }: BenchOptions): Promise<void> {
  const say = (text: string) => (json ? console.error(text) : console.log(text));
  const count = of ? Number(of) : quick ? 10_000 : 100_000;
  const cluster = await startCluster(join(FOLDER, 'postgres'), PORT);
  try {
    const bench = await Bench.open(cluster, FOLDER, 'bench_import', PORT + 1);
    try {
      const file = join(FOLDER, 'customers.csv');
      await writeFile(file, count);
      await bench.takeOver(
        Array.from({ length: count }, (_, i) => tokenOf(i + 1)).filter((token) => token !== ''),
      );
      const small = join(FOLDER, 'few-customers.csv');
      await writeFile(small, 1_000);
      const few = await runMeasured(['import', small, '--dry-run'], bench.environment);
      const dry = await runMeasured(['import', file, '--dry-run'], bench.environment);
      const real = await runMeasured(['import', file], bench.environment);
      const again = await runMeasured(['import', file], bench.environment);
      const figures = {
        rows: count,
        drySeconds: round(dry.seconds),
        importSeconds: round(real.seconds),
        againSeconds: round(again.seconds),
        peakMb: Math.max(dry.peakMb, real.peakMb, again.peakMb),
        peakMbOf1000: few.peakMb,
      };
      say(`${count.toLocaleString('en')} customers with subscriptions, four of five with a card:`);
      say(`  dry run            ${figures.drySeconds} s   (asked: under 45 of 100,000)`);
      say(`  import             ${figures.importSeconds} s   (asked: under 60 of 100,000)`);
      say(`  the same again     ${figures.againSeconds} s   (all is there already)`);
      say(`  memory             ${figures.peakMb} MB, of 1,000 rows ${few.peakMb} MB`);
      if (json) console.log(JSON.stringify(figures));
    } finally {
      await bench.end();
    }
  } finally {
    cluster.stop();
  }
}

const round = (seconds: number) => Math.round(seconds * 10) / 10;
const tokenOf = (n: number) => (n % 5 === 0 ? '' : `import-card-${n}`);

/** Rows as a business brings them over: a few groups and quantities, and starts on any day of the next month. */
async function writeFile(path: string, count: number): Promise<void> {
  function* rows() {
    for (let n = 1; n <= count; n += 1)
      yield {
        reference: `I-${n}`,
        name: `Person "${n}" Larkspur, Ønskebjerg`,
        email: `person${n}@post.example`,
        plan: 'hive-watch',
        rate: 'monthly',
        starts: formatDay(toDay('2027-01-15') + (n % 31)),
        quantity: n % 7 === 0 ? '2' : '',
        group: n % 11 === 0 ? `Group ${n % 3}` : '',
        card_token: tokenOf(n),
      };
  }
  await pipeline(Readable.from(rows()), stringify({ header: true }), createWriteStream(path));
}
