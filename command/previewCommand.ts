import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { text } from 'node:stream/consumers';
import { once } from 'node:events';
import { answerLine, readHorizon, type Answer } from '../core/listing/answerLine.ts';
import {
  creditAfter,
  endOf,
  OPEN_ENDED_PAYMENTS,
  paymentsOf,
  type Horizon,
} from '../core/listing/listPayments.ts';
import { OutputWriter } from '../core/listing/output.ts';
import { formatDay } from '../core/dates/day.ts';
import { formatDecimal } from '../core/money/decimal.ts';
import { checkTerms } from '../core/terms/check.ts';
import { compileTerms } from '../core/terms/compile.ts';
import type { CompiledTerms } from '../core/agreed/terms.ts';
import { RefusedTerms, type Fault } from '../core/terms/fault.ts';
import { PlainFailure } from './sayAndExit.ts';

export interface PreviewOptions {
  readonly until?: string;
  readonly count?: string;
  readonly json?: boolean;
  readonly lines?: boolean;
}

/**
 * `almanac preview`: what terms come to, as a table or as JSON; with --lines for each line of JSON Lines. Listings
 * are written out as they are computed, so that their length is no matter of memory.
 */
export async function previewCommand(name: string, options: PreviewOptions): Promise<void> {
  process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));
  const horizon = horizonOf(options);
  const input = name === '-' ? process.stdin : createReadStream(name);
  try {
    if (options.lines) await previewLines(input, horizon, options.json ?? false);
    else await previewOne(await text(input), horizon, options.json ?? false);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT')
      throw new PlainFailure(`There is no file ${name}.`);
    throw error;
  }
}

function horizonOf({ until, count }: PreviewOptions): Horizon {
  if (until !== undefined && count !== undefined)
    throw new PlainFailure('Give --until or --count, not both.');
  const wanted =
    until !== undefined
      ? { until }
      : count !== undefined
        ? { count: /^\d+$/.test(count) ? Number(count) : NaN }
        : null;
  const horizon = readHorizon(wanted);
  if (horizon === undefined) {
    throw new PlainFailure(
      until !== undefined ? '--until takes a date, YYYY-MM-DD.' : '--count takes a whole number.',
    );
  }
  return horizon;
}

async function previewOne(document: string, horizon: Horizon, json: boolean): Promise<void> {
  let parsed: unknown;
  try {
    parsed = JSON.parse(document);
  } catch (error) {
    return refuse([{ pointer: '', detail: `This is not JSON: ${(error as Error).message}` }], json);
  }
  const checked = checkTerms(parsed);
  if (!checked.ok) return refuse(checked.faults, json);
  try {
    const terms = compileTerms(checked.terms);
    endOf(terms); // Refuses an ending beyond the calendar before anything is printed.
    await (json ? writeJson(terms, horizon) : writeTable(terms, horizon));
  } catch (error) {
    if (!(error instanceof RefusedTerms)) throw error;
    refuse(error.faults, json);
  }
}

/** A problem document of RFC 9457, or the same in words; exit status 1 either way. */
function refuse(faults: readonly Fault[], json: boolean): void {
  process.exitCode = 1;
  if (json) {
    const problem = { type: 'about:blank', title: 'These terms are refused.', status: 422, errors: faults };
    process.stdout.write(`${JSON.stringify(problem)}\n`);
  } else for (const { pointer, detail } of faults) console.error(`${pointer || 'the document'}: ${detail}`);
}

/** Writes to standard output and waits where the reader is slower than we are. */
async function write(chunk: string): Promise<void> {
  if (!process.stdout.write(chunk)) await once(process.stdout, 'drain');
}

async function writeJson(terms: CompiledTerms, horizon: Horizon): Promise<void> {
  const writer = new OutputWriter(terms.digits);
  let sum = 0n;
  let creditLeft = 0n;
  let before = '{"payments":[';
  for (const payment of paymentsOf(terms, horizon)) {
    sum += payment.due;
    creditLeft += creditAfter(payment);
    await write(before + JSON.stringify(writer.write(payment)));
    before = ',';
  }
  const ends = endOf(terms);
  const rest = JSON.stringify({
    ends: ends === null ? null : formatDay(ends),
    sum: formatDecimal(sum, terms.digits),
    creditLeft: formatDecimal(creditLeft, terms.digits),
  });
  await write(`${before === ',' ? '' : before}],${rest.slice(1)}\n`);
}

const COLUMNS = [
  ['from', 10],
  ['to', 10],
  ['due on', 10],
  ['kind', 6],
  ['net', 14],
  ['tax', 12],
  ['total', 14],
  ['credit', 12],
  ['due', 14],
  ['in all', 16],
] as const;

async function writeTable(terms: CompiledTerms, horizon: Horizon): Promise<void> {
  const writer = new OutputWriter(terms.digits);
  const line = (cells: readonly string[]) =>
    `${cells
      .map((cell, i) => (i < 4 ? cell.padEnd(COLUMNS[i]?.[1] ?? 0) : cell.padStart(COLUMNS[i]?.[1] ?? 0)))
      .join('  ')
      .trimEnd()}\n`;
  let sum = 0n;
  let creditLeft = 0n;
  let count = 0;
  await write(`Amounts in ${terms.currency}\n${line(COLUMNS.map(([heading]) => heading))}`);
  for (const payment of paymentsOf(terms, horizon)) {
    const { from, to, dueOn, kind, net, tax, total, credit, due } = writer.write(payment);
    sum += payment.due;
    creditLeft += creditAfter(payment);
    count += 1;
    await write(
      line([from, to, dueOn, kind, net, tax, total, credit, due, formatDecimal(sum, terms.digits)]),
    );
  }
  const ends = endOf(terms);
  const more = ends === null && horizon === null && count === OPEN_ENDED_PAYMENTS ? ', and so on' : '';
  const end =
    ends === null ? 'It goes on until somebody ends it.' : `The first day not served is ${formatDay(ends)}.`;
  const inAll = `${formatDecimal(sum, terms.digits)} ${terms.currency} in all`;
  const left =
    creditLeft === 0n ? '' : ` ${formatDecimal(creditLeft, terms.digits)} of credit is not used up.`;
  await write(`${count} payments${more}, ${inAll}. ${end}${left}\n`);
}

async function previewLines(input: NodeJS.ReadableStream, horizon: Horizon, json: boolean): Promise<void> {
  let number = 0;
  for await (const line of createInterface({ input, crlfDelay: Infinity })) {
    number += 1;
    if (line.trim() === '') continue;
    const answer = answerLine(line, horizon);
    if ('errors' in answer) process.exitCode = 1;
    await write(json ? `${JSON.stringify(answer)}\n` : `${inWords(answer, number)}\n`);
  }
}

function inWords(answer: Answer, number: number): string {
  const name = typeof answer.id === 'string' ? answer.id : `line ${number}`;
  if ('errors' in answer) {
    return `${name}: refused; ${answer.errors.map(({ pointer, detail }) => `${pointer} ${detail}`).join(' ')}`;
  }
  const { payments, sum, ends } = answer.output;
  return `${name}: ${payments.length} payments, ${sum} in all, ${ends === null ? 'open-ended' : `ends ${ends}`}`;
}
