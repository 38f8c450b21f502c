import { Box, Button, Skeleton, Table } from '@chakra-ui/react';
import { createColumnHelper, tableFeatures, useTable } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';

export interface Column<Row> {
  readonly heading: string;
  /** The name under which the server sorts by it. */
  readonly sort?: string;
  /** It stands in the list only where somebody has chosen it. */
  readonly wished?: boolean;
  /** It gives its room to the margin while a row is chosen. */
  readonly roomy?: boolean;
  readonly width?: string;
  readonly right?: boolean;
  readonly cell: (row: Row) => ReactNode;
  /** A second, quieter line. */
  readonly under?: (row: Row) => ReactNode;
}

interface Props<Row> {
  readonly label: string;
  readonly columns: readonly Column<Row>[];
  readonly total: number;
  /** The row at a place; undefined while it is on its way. */
  readonly at: (place: number) => Row | undefined;
  readonly sort: string;
  readonly onSort: (sort: string) => void;
  readonly chosen: string | null;
  readonly onChoose: (row: Row) => void;
  /** Tells which places are in sight. */
  readonly onSight: (first: number, last: number) => void;
}

const FEATURES = tableFeatures({});

/** A row of the table: what there is at a place. */
interface Placed<Row> {
  readonly place: number;
  readonly row: Row | undefined;
}

/**
 * A table of which only the rows in sight are drawn. It is one tab stop: arrow keys, Page and Home and End move in it,
 * Enter chooses.
 */
export function VirtualTable<Row extends { id: string }>(props: Props<Row>) {
  const { label, columns, total, at, sort, onSort, chosen, onChoose, onSight } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [stop, setStop] = useState(0);
  const [isMoved, setMoved] = useState(false);
  const height = columns.some(({ under }) => under) ? 37 : 36;
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is handed on to what is memoized
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 6,
    // Drawn before it is measured, as in a test without a layout.
    initialRect: { width: 900, height: 560 },
  });
  const inSight = virtual.getVirtualItems();
  const [first, last] = [inSight[0]?.index ?? 0, inSight.at(-1)?.index ?? 0];
  useEffect(() => onSight(first, last), [onSight, first, last]);
  const defined = useMemo(() => {
    const helper = createColumnHelper<typeof FEATURES, Placed<Row>>();
    return columns.map((column) =>
      helper.display({
        id: column.heading || 'box',
        header: () => <Heading column={column} sort={sort} onSort={onSort} />,
        cell: ({ row: { original } }) =>
          original.row === undefined ? (
            <Skeleton h="14px" />
          ) : (
            <>
              {column.cell(original.row)}
              {column.under && (
                <Box color="muted" fontSize="12px" lineHeight="14px" truncate>
                  {column.under(original.row)}
                </Box>
              )}
            </>
          ),
      }),
    );
  }, [columns, sort, onSort]);
  const data = inSight.map(({ index }): Placed<Row> => ({ place: index, row: at(index) }));
  const table = useTable({ features: FEATURES, columns: defined, data });
  useEffect(() => {
    if (isMoved) scroller.current?.querySelector<HTMLElement>(`[data-place="${stop}"]`)?.focus();
  }, [stop, isMoved, first, last]);
  const onKeyDown = (event: KeyboardEvent, { place, row }: Placed<Row>) => {
    if (event.target !== event.currentTarget) return;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? height) / height) - 2);
    const steps: Record<string, number> = {
      ...{ ArrowDown: place + 1, ArrowUp: place - 1, PageDown: place + page, PageUp: place - page },
      ...{ Home: 0, End: total - 1 },
    };
    const to = steps[event.key];
    if (event.key === 'Enter' || event.key === ' ') {
      if (row) onChoose(row);
    } else if (to !== undefined) {
      const next = Math.min(Math.max(to, 0), total - 1);
      setMoved(true);
      setStop(next);
      virtual.scrollToIndex(next);
    } else return;
    event.preventDefault();
  };
  const stopInSight = stop >= first && stop <= last ? stop : first;
  const after = Math.max(0, virtual.getTotalSize() - (inSight.at(-1)?.end ?? 0));
  return (
    <Box
      ref={scroller}
      bg="page"
      borderWidth="1px"
      borderColor="lines"
      borderRadius="md"
      overflow="auto"
      maxH="calc(100vh - 228px)"
      minH="80px"
    >
      <Table.Root size="sm" aria-label={label} aria-rowcount={total + 1} tableLayout="fixed">
        <Table.Header>
          {table.getHeaderGroups().map((group) => (
            <Table.Row key={group.id} bg="page">
              {group.headers.map((header, i) => {
                const column = columns[i];
                const isUp = column?.sort !== undefined && sort === column.sort;
                const isDown = column?.sort !== undefined && sort === `-${column.sort}`;
                return (
                  <Table.ColumnHeader
                    key={header.id}
                    w={column?.width}
                    textAlign={column?.right ? 'end' : 'start'}
                    color="muted"
                    fontWeight="500"
                    borderColor="lines"
                    bg="page"
                    position="sticky"
                    top="0"
                    zIndex="1"
                    py="1"
                    aria-sort={isUp ? 'ascending' : isDown ? 'descending' : undefined}
                  >
                    <table.FlexRender header={header} />
                  </Table.ColumnHeader>
                );
              })}
            </Table.Row>
          ))}
        </Table.Header>
        <Table.Body>
          <Gap height={inSight[0]?.start ?? 0} columns={columns.length} />
          {table.getRowModel().rows.map((drawn) => {
            const { place, row } = drawn.original;
            const isChosen = row !== undefined && row.id === chosen;
            return (
              <Table.Row
                key={place}
                h={`${height}px`}
                data-place={place}
                aria-rowindex={place + 2}
                tabIndex={place === stopInSight ? 0 : -1}
                cursor="pointer"
                aria-selected={isChosen}
                bg={isChosen ? 'kelp.subtle' : 'page'}
                _hover={{ bg: 'kelp.subtle' }}
                onFocus={() => setStop(place)}
                onClick={({ target }) => {
                  // A link in a row goes where it leads, and chooses nothing on its way.
                  if (row && !(target as Element).closest('a, button')) onChoose(row);
                }}
                onKeyDown={(event) => onKeyDown(event, drawn.original)}
              >
                {drawn.getAllCells().map((cell, i) => (
                  <Table.Cell
                    key={cell.id}
                    py="0"
                    textAlign={columns[i]?.right ? 'end' : 'start'}
                    overflow="hidden"
                    textOverflow="ellipsis"
                    whiteSpace="nowrap"
                    borderColor="lines"
                    lineHeight="17px"
                  >
                    <table.FlexRender cell={cell} />
                  </Table.Cell>
                ))}
              </Table.Row>
            );
          })}
          <Gap height={after} columns={columns.length} />
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

/** The room of rows that are not drawn. */
function Gap({ height, columns }: { readonly height: number; readonly columns: number }) {
  if (height <= 0) return null;
  return (
    <tr aria-hidden>
      <td colSpan={columns} style={{ height, padding: 0, border: 0 }} />
    </tr>
  );
}

function Heading<Row>(props: { column: Column<Row>; sort: string; onSort: (sort: string) => void }) {
  const { column, sort, onSort } = props;
  const { sort: name } = column;
  if (name === undefined) return column.heading;
  return (
    <Button
      variant="plain"
      size="xs"
      p="0"
      h="auto"
      color="inherit"
      minW="0"
      fontSize="inherit"
      fontWeight="inherit"
      onClick={() => onSort(sort === name ? `-${name}` : name)}
    >
      {column.heading}
      {sort === name && <ArrowUp size={12} aria-hidden />}
      {sort === `-${name}` && <ArrowDown size={12} aria-hidden />}
    </Button>
  );
}
