import type { Piscina } from 'piscina';
import { poolOf } from '../threads/poolOf.ts';
import type { PrintedStatement } from './layOutStatement.ts';
import type { PrintedDocument, PrintedLook } from './printed.ts';
import type { ToPrint } from './tasks.ts';

const MOST_WAITING = 500;
/** A page takes a few hundredths of a second; whatever takes longer than this is given up. */
const DEADLINE_MS = 60_000;

let pool: Piscina | undefined;

/** Prints a document as PDF, in a thread of its own: the same document is the same to the byte. */
export const printDocument = (document: PrintedDocument, look: PrintedLook): Promise<Buffer> =>
  print({ document, look });

/** Prints a statement of account as PDF, in a thread of its own. */
export const printStatement = (statement: PrintedStatement, look: PrintedLook): Promise<Buffer> =>
  print({ statement, look });

async function print(asked: ToPrint): Promise<Buffer> {
  pool ??= poolOf('documents/tasks.ts', {
    ...{ minThreads: 0, maxThreads: 2, maxQueue: MOST_WAITING, memoryMb: 512 },
  });
  const printed = (await pool.run(asked, { signal: AbortSignal.timeout(DEADLINE_MS) })) as Uint8Array;
  return Buffer.from(printed.buffer, printed.byteOffset, printed.byteLength);
}
