import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { paymentsOf, type Horizon } from '../../core/listing/listPayments.ts';
import { OutputWriter } from '../../core/listing/output.ts';
import { checkTerms, requireTerms } from '../../core/terms/check.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { RefusedTerms } from '../../core/terms/fault.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { ROOT } from '../settings.ts';

/** How long each row is measured, in milliseconds, after a warm-up of a third of it. */
const MEASURED_MS = 4_500;

/** `almanac bench core`: measures the calculation, and prints figures. It judges nothing. */
export function benchCore(): void {
  console.log(`node ${process.version}, one thread; payments a second, the output of the listing included`);
  row('simple', simple(), 'a monthly flat price on the 15th, 2,000 payments at a time');
  const cases = publicCases();
  row('mixed', listAll(cases), `the ${cases.length} worked cases that are not refused, over and over`);
  row('mixed, compiled', compileAll(cases), 'the same, the terms compiled anew each time');
  row('mixed, checked', checkAll(cases), 'the same, every document checked and compiled anew each time');
  memory();
}

/** A unit of work; gives how many payments it listed. */
type Work = () => number;

function row(name: string, work: Work, about: string): void {
  const spend = (ms: number) => {
    let payments = 0;
    const began = performance.now();
    while (performance.now() - began < ms) payments += work();
    return payments / ((performance.now() - began) / 1000);
  };
  spend(MEASURED_MS / 3);
  const rates = [1, 2, 3].map(() => spend(MEASURED_MS / 3)).sort((a, b) => a - b);
  const figures = rates.map((rate) => Math.round(rate).toLocaleString('en')).join(' / ');
  console.log(`${name.padEnd(15)} ${figures} (slowest / middle / fastest)  ${about}`);
}

/** Lists payments in the form of the output, and lets each go. */
function list(terms: CompiledTerms, horizon: Horizon): number {
  const writer = new OutputWriter(terms.digits);
  let payments = 0;
  for (const payment of paymentsOf(terms, horizon)) {
    writer.write(payment);
    payments += 1;
  }
  return payments;
}

function simpleTerms(): Terms {
  return requireTerms({
    currency: 'GBP',
    starts: '2027-01-15',
    lines: [{ price: { scheme: 'flat', amount: '10.00' } }],
    interval: 'P1M',
    on: { day: 15 },
  });
}

function simple(): Work {
  const terms = compileTerms(simpleTerms());
  return () => list(terms, { count: 2000 });
}

interface Case {
  readonly document: unknown;
  readonly terms: Terms;
  readonly horizon: Horizon;
}

function publicCases(): Case[] {
  return ['hand', 'cases'].flatMap((name) => {
    const lines = readFileSync(join(ROOT, 'core', 'vectors', `${name}.jsonl`), 'utf8')
      .trim()
      .split('\n');
    return lines.flatMap((line) => {
      const { terms: document, horizon } = JSON.parse(line) as { terms: unknown; horizon: Horizon };
      const checked = checkTerms(document);
      return checked.ok ? [{ document, terms: checked.terms, horizon }] : [];
    });
  });
}

function listAll(cases: readonly Case[]): Work {
  const compiled = cases.map(({ terms, horizon }) => ({ terms: compileTerms(terms), horizon }));
  return () => compiled.reduce((sum, { terms, horizon }) => sum + listed(() => terms, horizon), 0);
}

function compileAll(cases: readonly Case[]): Work {
  return () => cases.reduce((sum, { terms, horizon }) => sum + listed(() => compileTerms(terms), horizon), 0);
}

function checkAll(cases: readonly Case[]): Work {
  return () =>
    cases.reduce(
      (sum, { document, horizon }) => sum + listed(() => compileTerms(requireTerms(document)), horizon),
      0,
    );
}

function listed(compile: () => CompiledTerms, horizon: Horizon): number {
  try {
    return list(compile(), horizon);
  } catch (error) {
    if (error instanceof RefusedTerms) return 0;
    throw error;
  }
}

/** The heap in use after short and long listings that are streamed: it does not grow with their length. */
function memory(): void {
  const terms = compileTerms(requireTerms({ ...simpleTerms(), interval: 'P1D', on: undefined }));
  for (const count of [10_000, 100_000, 1_000_000]) {
    let most = 0;
    const writer = new OutputWriter(terms.digits);
    let listed = 0;
    for (const payment of paymentsOf(terms, { count })) {
      writer.write(payment);
      if (listed++ % 1000 === 0) most = Math.max(most, process.memoryUsage().heapUsed);
    }
    console.log(
      `memory          ${(most / 1e6).toFixed(0)} MB of heap at most while ${listed.toLocaleString('en')} payments stream by`,
    );
  }
}
