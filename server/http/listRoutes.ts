import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { sendCsv, type CsvColumns } from './csv.ts';
import { listQuery, type ListQuery, type Page } from './list.ts';
import type { Routes, May } from './route.ts';

/** So many rows of a short list are read at once for a file. */
const AT_ONCE = 1_000;
/** A file may take long: it is sent as it is read, and ends where the browser goes. */
const FILE_DEADLINE_MS = 30 * 60_000;

interface ListRoute<Query extends z.ZodType<ListQuery>, Row> {
  readonly may: May;
  /** What the file is called. */
  readonly name: string;
  readonly query?: Query;
  readonly list: (query: z.output<Query>, id: string) => Promise<Page<Row>>;
  /** All rows, some at a time; of a short list its pages, one after the other. */
  readonly all?: (query: z.output<Query>, id: string) => AsyncIterable<readonly Row[]>;
  readonly columns: CsvColumns<Row>;
}

/** Adds a list, page by page for a screen, and all that is asked of it as a file: under the same path with `.csv` behind. */
export function addList<Row, Query extends z.ZodType<ListQuery> = typeof listQuery>(
  routes: Routes,
  almanac: Almanac,
  path: string,
  { may, name, query = listQuery as unknown as Query, list, all, columns }: ListRoute<Query, Row>,
): void {
  routes.add('get', path, {
    may,
    heavy: true,
    query,
    answer: ({ params, query: asked }) => list(asked, params.id ?? ''),
  });
  const paged = (asked: z.output<Query>, id: string) =>
    pageByPage((page) => list({ ...asked, page, size: AT_ONCE }, id));
  routes.add('get', `${path}.csv`, {
    may,
    query,
    deadlineMs: FILE_DEADLINE_MS,
    answer: async ({ params, query: asked, response, signal }) => {
      const rows = (all ?? paged)(asked, params.id ?? '');
      const note = () =>
        recordDone(almanac, { did: 'took a list as a file', subject: name, after: { asked } });
      await sendCsv(response, name, columns, noted(rows, note), signal);
    },
  });
}

/** The same rows; that they were taken is noted before the first of them is given out, and not where they are refused. */
async function* noted<Rows>(rows: AsyncIterable<Rows>, note: () => Promise<void>): AsyncGenerator<Rows> {
  const taken = rows[Symbol.asyncIterator]();
  let next = await taken.next();
  await note();
  for (; !next.done; next = await taken.next()) yield next.value;
}

async function* pageByPage<Row>(read: (page: number) => Promise<Page<Row>>): AsyncGenerator<Row[]> {
  for (let page = 1, pages = 1; page <= pages; page += 1) {
    const found = await read(page);
    yield found.rows;
    ({ pages } = found);
  }
}
