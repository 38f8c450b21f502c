import { Box, Button, Flex, Input, NativeSelect, Table, Text } from '@chakra-ui/react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import type { Page } from '../../server/http/list.ts';
import { withQuery } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';

export interface Column<Row> {
  readonly heading: string;
  /** The name under which the server sorts by it. */
  readonly sort?: string;
  readonly width?: string;
  readonly right?: boolean;
  readonly cell: (row: Row) => ReactNode;
}

interface Props<Row> {
  readonly path: string;
  readonly label: string;
  readonly columns: readonly Column<Row>[];
  readonly states: readonly string[];
  /** A second filter, by what kind of thing a row is: the value asked for, and what it is called. */
  readonly kinds?: Readonly<Record<string, string>>;
  /** What to say and offer where there is nothing at all. */
  readonly empty: ReactNode;
  readonly chosen: string | null;
  readonly onChoose: (row: Row) => void;
}

/** A list: search, filter, order and paging live in the address, so that a list can be linked and gone back to. */
export function ListPage<Row extends { id: string }>(props: Props<Row>) {
  const { path, label, columns, states, kinds, empty, chosen, onChoose } = props;
  const [params, setParams] = useSearchParams();
  const given = (name: string) => params.get(name) ?? '';
  const asked = { search: given('search'), state: given('state'), kind: kinds ? given('kind') : '' };
  const sort = given('sort');
  const page = Number(params.get('page') ?? 1);
  const { data, error, isLoading } = useAnswer<Page<Row>>(withQuery(path, { ...asked, sort, page }));
  const [typed, setTyped] = useState(asked.search);

  const set = (changes: Record<string, string>) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        if (!('page' in changes)) next.delete('page');
        for (const [name, value] of Object.entries(changes)) {
          if (value) next.set(name, value);
          else next.delete(name);
        }
        return next;
      },
      { replace: true },
    );
  useEffect(() => {
    const timer = setTimeout(() => typed !== asked.search && set({ search: typed }), 200);
    return () => clearTimeout(timer);
  });

  const filtered = Object.values(asked).some((value) => value !== '');
  return (
    <Box>
      <Flex gap="3" mb="3" align="center">
        <Input
          size="sm"
          maxW="260px"
          placeholder="Search"
          aria-label={`Search ${label}`}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Filter
          label="State"
          all={kinds ? 'Any state' : 'All'}
          value={asked.state}
          choices={states.map((state) => [state, state])}
          onChange={(state) => set({ state })}
        />
        {kinds && (
          <Filter
            label="Kind"
            all="Any kind"
            value={asked.kind}
            choices={Object.entries(kinds)}
            onChange={(kind) => set({ kind })}
          />
        )}
        <Text color="muted" ml="auto" aria-live="polite">
          {data ? `${data.total} ${label}` : isLoading ? 'Loading …' : ''}
        </Text>
      </Flex>
      {error && <Text color="declined">{error.message}</Text>}
      {data && data.total === 0 && !filtered && <Box py="8">{empty}</Box>}
      {data && data.total === 0 && filtered && (
        <Text py="8" color="muted">
          Nothing matches.{' '}
          <Button
            variant="plain"
            size="sm"
            color="kelp.fg"
            onClick={() => (setTyped(''), set({ search: '', state: '', kind: '' }))}
          >
            Show everything
          </Button>
        </Text>
      )}
      {data && data.total > 0 && (
        <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" overflowX="auto">
          <Table.Root size="sm" aria-label={label} tableLayout="fixed">
            <Table.Header>
              <Table.Row bg="page">
                {columns.map((column) => (
                  <Heading
                    key={column.heading}
                    column={column}
                    sort={sort}
                    onSort={(next) => set({ sort: next })}
                  />
                ))}
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {data.rows.map((row) => (
                <Table.Row
                  key={row.id}
                  h="36px"
                  tabIndex={0}
                  cursor="pointer"
                  aria-selected={row.id === chosen}
                  bg={row.id === chosen ? 'kelp.subtle' : 'page'}
                  _hover={{ bg: 'kelp.subtle' }}
                  onClick={() => onChoose(row)}
                  onKeyDown={(event) => {
                    if (
                      event.target === event.currentTarget &&
                      (event.key === 'Enter' || event.key === ' ')
                    ) {
                      event.preventDefault();
                      onChoose(row);
                    }
                  }}
                >
                  {columns.map((column) => (
                    <Table.Cell
                      key={column.heading}
                      py="0"
                      textAlign={column.right ? 'end' : 'start'}
                      overflow="hidden"
                      textOverflow="ellipsis"
                      whiteSpace="nowrap"
                      borderColor="lines"
                    >
                      {column.cell(row)}
                    </Table.Cell>
                  ))}
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
        </Box>
      )}
      {data && data.pages > 1 && (
        <Flex as="nav" aria-label="Pages" gap="3" mt="3" align="center">
          <Button
            size="xs"
            variant="outline"
            disabled={data.page <= 1}
            onClick={() => set({ page: String(data.page - 1) })}
          >
            Back
          </Button>
          <Text>
            Page {data.page} of {data.pages}
          </Text>
          <Button
            size="xs"
            variant="outline"
            disabled={data.page >= data.pages}
            onClick={() => set({ page: String(data.page + 1) })}
          >
            On
          </Button>
        </Flex>
      )}
    </Box>
  );
}

function Filter(props: {
  readonly label: string;
  readonly all: string;
  readonly value: string;
  readonly choices: readonly (readonly [value: string, says: string])[];
  readonly onChange: (value: string) => void;
}) {
  const { label, all, value, choices, onChange } = props;
  return (
    <NativeSelect.Root size="sm" w="170px">
      <NativeSelect.Field aria-label={label} value={value} onChange={(event) => onChange(event.target.value)}>
        <option value="">{all}</option>
        {choices.map(([choice, says]) => (
          <option key={choice} value={choice}>
            {says}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

function Heading<Row>(props: { column: Column<Row>; sort: string; onSort: (sort: string) => void }) {
  const { column, sort, onSort } = props;
  const { sort: name } = column;
  const up = name !== undefined && sort === name;
  const down = name !== undefined && sort === `-${name}`;
  return (
    <Table.ColumnHeader
      w={column.width}
      textAlign={column.right ? 'end' : 'start'}
      color="muted"
      fontWeight="500"
      borderColor="lines"
      aria-sort={up ? 'ascending' : down ? 'descending' : undefined}
    >
      {name === undefined ? (
        column.heading
      ) : (
        <Button
          variant="plain"
          size="xs"
          p="0"
          h="auto"
          color="inherit"
          minW="0"
          fontSize="inherit"
          fontWeight="inherit"
          onClick={() => onSort(up ? `-${name}` : name)}
        >
          {column.heading}
          {up && <ArrowUp size={12} aria-hidden />}
          {down && <ArrowDown size={12} aria-hidden />}
        </Button>
      )}
    </Table.ColumnHeader>
  );
}
