import { useState } from 'react';
import useSWRInfinite from 'swr/infinite';
import type { SHEET_PARTS, SheetPart } from '../../../server/run/messages.ts';
import { ROWS_AT_ONCE } from '../../parts/list/useRows.ts';
import { get, withQuery, type Problem } from '../../api/client.ts';

/**
 * The rows of one part of a day's sheet: the first came with the sheet, and each call of `more` asks for the next page.
 * `more` is null where all are there.
 */
export function useMoreRows<Row>(
  date: string,
  name: (typeof SHEET_PARTS)[number],
  part: SheetPart<Row>,
): { readonly rows: readonly Row[]; readonly more: (() => void) | null; readonly isLoading: boolean } {
  // Another day begins with its first rows again.
  const [askedOf, setAskedOf] = useState('');
  const isAsked = askedOf === date;
  const { data, size, setSize, isValidating } = useSWRInfinite<readonly Row[], Problem>(
    (index) => (isAsked ? withQuery(`/api/days/${date}/${name}`, { page: String(index + 2) }) : null),
    (path: string) => get<readonly Row[]>(path),
    { revalidateFirstPage: false },
  );
  const rows = isAsked ? [...part.rows, ...(data ?? []).flat()] : part.rows;
  const more = () => (isAsked ? void setSize(size + 1) : setAskedOf(date));
  const last = data?.at(-1);
  const hasMore = isAsked && last ? last.length === ROWS_AT_ONCE : part.more;
  return { rows, more: hasMore ? more : null, isLoading: isAsked && isValidating };
}
