import useSWR from 'swr';
import type { Page } from '../../../server/http/list.ts';
import { get, withQuery, type Problem } from '../../api/client.ts';

/** Rows that the server gives at once. */
export const ROWS_AT_ONCE = 40;

export interface Rows<Row> {
  /** Of all pages together; undefined before anything came. */
  readonly total: number | undefined;
  /** There are more than the total says, which are not counted. */
  readonly more: boolean;
  /** The row at a place, counted from 0; undefined while it is on its way. */
  readonly at: (place: number) => Row | undefined;
  readonly error: Problem | undefined;
}

/**
 * The rows of a list around the place that is looked at: whatever is scrolled to is fetched by whole pages, so that a
 * list of a hundred thousand costs no more than one of a hundred.
 * @param first and last place in sight, counted from 0
 */
export function useRows<Row>(
  path: string,
  query: Readonly<Record<string, string>>,
  first: number,
  last: number,
): Rows<Row> {
  const pageOf = (place: number) => Math.floor(place / ROWS_AT_ONCE) + 1;
  const [from, to] = [pageOf(first), pageOf(Math.max(first, last))];
  // Its beginning is that of every answer, so that a command asks it anew like them.
  const key = `${withQuery(path, { ...query })}#${from}-${to}`;
  const { data, error } = useSWR<{ from: number; pages: Page<Row>[] }, Problem>(
    key,
    async () => {
      const pages = Array.from({ length: to - from + 1 }, (_, i) =>
        get<Page<Row>>(withQuery(path, { ...query, page: from + i })),
      );
      return { from, pages: await Promise.all(pages) };
    },
    { keepPreviousData: true },
  );
  return {
    total: data?.pages[0]?.total,
    more: data?.pages[0]?.more ?? false,
    at: (place) => {
      if (!data) return undefined;
      const page = data.pages[pageOf(place) - data.from];
      return page?.rows[place % ROWS_AT_ONCE];
    },
    error,
  };
}
