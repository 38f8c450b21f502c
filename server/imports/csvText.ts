import { open } from 'node:fs/promises';
import { createReadStream, statSync } from 'node:fs';
import { Readable } from 'node:stream';
import type { ImportFile } from './importFile.ts';

/** How a file is written, as spreadsheets save it. */
type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

/** A CSV file as it can be read: its text as it flows by, and what stands between its cells. */
export interface CsvText {
  readonly stream: Readable;
  readonly delimiter: string;
  /** Bytes of the text; where another encoding than UTF-8 was read, about so many. */
  readonly size: number;
}

/** The head of a file, in which its first line ends. */
const HEAD = 64 * 1024;
const DELIMITERS = [',', ';', '\t'];

/** Opens a CSV file in whatever encoding and with whatever delimiter a spreadsheet has saved it. */
export async function openCsv(file: ImportFile): Promise<CsvText> {
  if ('text' in file) {
    const { text } = file;
    return {
      stream: Readable.from([text]),
      delimiter: delimiterOf(text.slice(0, HEAD)),
      size: Buffer.byteLength(text),
    };
  }
  const head = await headOf(file.path);
  const encoding = await encodingOf(file.path, head);
  const { size } = statSync(file.path);
  return {
    stream: encoding === 'utf-8' ? createReadStream(file.path) : Readable.from(decoded(file.path, encoding)),
    delimiter: delimiterOf(new TextDecoder(encoding).decode(head)),
    size: encoding.startsWith('utf-16') ? size / 2 : size,
  };
}

async function* decoded(path: string, encoding: Encoding): AsyncGenerator<string> {
  const decoder = new TextDecoder(encoding);
  for await (const chunk of createReadStream(path)) yield decoder.decode(chunk as Buffer, { stream: true });
  yield decoder.decode();
}

async function headOf(path: string): Promise<Uint8Array> {
  const handle = await open(path);
  try {
    const { bytesRead, buffer } = await handle.read(Buffer.alloc(HEAD), 0, HEAD, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/** By its mark or, without one, by what it holds: whatever is no UTF-8 was saved as the old code page of western Europe. */
async function encodingOf(path: string, head: Uint8Array): Promise<Encoding> {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  // Latin letters have every other byte empty there.
  if (head.length >= 2 && head[0] !== 0 && head[1] === 0) return 'utf-16le';
  if (head.length >= 2 && head[0] === 0 && head[1] !== 0) return 'utf-16be';
  const decoder = new TextDecoder('utf-8', { fatal: true });
  try {
    for await (const chunk of createReadStream(path)) decoder.decode(chunk as Buffer, { stream: true });
    decoder.decode();
    return 'utf-8';
  } catch (error) {
    if (error instanceof TypeError) return 'windows-1252';
    throw error;
  }
}

/** What stands most often in the first line, outside of quotation marks. */
function delimiterOf(head: string): string {
  const [line = ''] = head.replace(/"[^"]*"/g, '').split(/\r\n|\r|\n/);
  const counted = DELIMITERS.map((delimiter) => ({ delimiter, n: line.split(delimiter).length }));
  return counted.reduce((most, one) => (one.n > most.n ? one : most)).delimiter;
}
