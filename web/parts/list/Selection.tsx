import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState, type ReactNode } from 'react';
import type { Page } from '../../../server/http/list.ts';
import { get, withQuery } from '../../api/client.ts';
import { sayCount } from '../sayCount.ts';
import type { Column } from './VirtualTable.tsx';

/** So many rows are chosen at once. */
export const MOST_CHOSEN = 500;

/** Rows that are chosen by their boxes; they stay so while one scrolls, searches and filters. */
export interface Selection<Row> {
  readonly rows: ReadonlyMap<string, Row>;
  readonly toggle: (row: Row) => void;
  readonly add: (rows: readonly Row[]) => void;
  readonly clear: () => void;
}

export function useSelection<Row extends { id: string }>(): Selection<Row> {
  const [rows, setRows] = useState<ReadonlyMap<string, Row>>(new Map());
  return {
    rows,
    toggle: (row) =>
      setRows((now) => {
        const next = new Map(now);
        if (!next.delete(row.id) && next.size < MOST_CHOSEN) next.set(row.id, row);
        return next;
      }),
    add: (more) =>
      setRows((now) => new Map([...now, ...more.map((row) => [row.id, row] as const)].slice(0, MOST_CHOSEN))),
    clear: () => setRows(new Map()),
  };
}

/** The column of boxes by which rows are chosen. */
export function boxColumn<Row extends { id: string }>(
  { rows, toggle }: Selection<Row>,
  nameOf: (row: Row) => string,
): Column<Row> {
  return {
    heading: '',
    width: '36px',
    cell: (row) => (
      <input
        type="checkbox"
        aria-label={`Choose ${nameOf(row)}`}
        checked={rows.has(row.id)}
        onChange={() => toggle(row)}
        // The row itself is not opened by it.
        onClick={(event) => event.stopPropagation()}
        style={{ accentColor: 'var(--chakra-colors-kelp-solid)', width: 16, height: 16 }}
      />
    ),
  };
}

/** What can be done with the rows that are chosen, above their list. */
export function ChosenBar<Row extends { id: string }>(props: {
  readonly selection: Selection<Row>;
  readonly path: string;
  readonly asked: Readonly<Record<string, string>>;
  readonly total: number;
  readonly children: ReactNode;
}) {
  const { selection, path, asked, total, children } = props;
  const [busy, setBusy] = useState(false);
  const { rows, add, clear } = selection;
  if (rows.size === 0) return null;
  const chooseAll = async () => {
    setBusy(true);
    try {
      for (let page = 1, pages = 1; page <= pages; page += 1) {
        const found = await get<Page<Row>>(withQuery(path, { ...asked, page }));
        add(found.rows);
        ({ pages } = found);
      }
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box role="region" aria-label="What is chosen" bg="kelp.muted" borderRadius="md" px="3" py="2" mb="3">
      <Flex gap="4" align="center" wrap="wrap">
        <Text aria-live="polite">{sayCount(rows.size)} chosen</Text>
        {total > rows.size && total <= MOST_CHOSEN && (
          <Button size="xs" variant="outline" bg="page" loading={busy} onClick={() => void chooseAll()}>
            Choose all {sayCount(total)}
          </Button>
        )}
        <Button size="xs" variant="outline" bg="page" onClick={clear}>
          Choose none
        </Button>
      </Flex>
      <Box mt="2">{children}</Box>
    </Box>
  );
}
