import { Box, Button, Flex, Input, Link as TextLink, Text } from '@chakra-ui/react';
import { lazy, Suspense, useCallback, useEffect, useState, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import type { ListView } from '../../../server/staff/viewMessages.ts';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Loading } from '../../frame/PageLoading.tsx';
import { sayCount } from '../sayCount.ts';
import { Choice } from './Choice.tsx';
import { DatedFilter } from './DatedFilter.tsx';
import { boxColumn, ChosenBar, useSelection } from './Selection.tsx';
import { useRows } from './useRows.ts';
import { VirtualTable, type Column } from './VirtualTable.tsx';

export type { Column };

/** The value of the filter by state that asks for all of them, where something else is usual. */
const ALL = 'all';
/** What of the address is kept in a view. */
const ASKED = ['search', 'state', 'kind', 'dated', 'from', 'until', 'sort'] as const;

// Seldom opened.
const Views = lazy(() => import('./Views.tsx').then((part) => ({ default: part.Views })));

/** A filter of a list, beside those that every list has. */
export interface Filter {
  readonly name: string;
  readonly label: string;
  /** What it is called where nothing is asked. */
  readonly all: string;
  readonly choices: readonly (readonly [value: string, says: string])[];
}
const NO_FILTERS: readonly Filter[] = [];

const singular = (label: string) => label.replace(/ies$/, 'y').replace(/s$/, '');

interface Props<Row> {
  readonly path: string;
  readonly label: string;
  /** The same array each time, as far as it can be. */
  readonly columns: readonly Column<Row>[];
  readonly states: readonly string[];
  /** A second filter, by what kind of thing a row is: the value asked for, and what it is called. */
  readonly kinds?: Readonly<Record<string, string>>;
  /** What that filter is called where nothing is asked. */
  readonly anyKind?: string;
  /** Further filters, by the name that the list is asked by. */
  readonly filters?: readonly Filter[];
  /** Dates that rows can be filtered by, and what each is called. */
  readonly dates?: Readonly<Record<string, string>>;
  /** The state that is shown while nothing is asked, and what that is called; whatever is searched for is looked for in all. */
  readonly usual?: { readonly state: string; readonly says: string };
  /** Its columns can be chosen, and views of it saved, under this name. */
  readonly views?: string;
  /** What to say and offer where there is nothing at all. */
  readonly empty: ReactNode;
  readonly chosen: string | null;
  readonly onChoose: (row: Row) => void;
  /** What can be done with several rows at once, and what a row is called. */
  readonly several?: {
    readonly nameOf: (row: Row) => string;
    readonly act: (rows: readonly Row[]) => ReactNode;
  };
}

/**
 * A list: search, filter and order live in the address, so that a list can be linked and gone back to. Its rows are
 * drawn and fetched as they come in sight.
 */
export function ListPage<Row extends { id: string }>(props: Props<Row>) {
  const { path, label, states, kinds, anyKind = 'Any kind', dates, empty, chosen, onChoose, several } = props;
  const { usual, views, filters = NO_FILTERS } = props;
  const { data: saved } = useAnswer<ListView[]>(views === undefined ? null : `/api/views?list=${views}`);
  const [viewing, setViewing] = useState(false);
  const selection = useSelection<Row>();
  const [params, setParams] = useSearchParams();
  const given = (name: string) => params.get(name) ?? '';
  const view = saved?.find(({ name }) => name === given('view')) ?? saved?.find(({ name }) => name === '');
  const shown = props.columns.filter(({ heading, wished }) =>
    view === undefined ? !wished : view.columns.includes(heading),
  );
  const drawn = chosen === null ? shown : shown.filter(({ roomy }) => !roomy);
  const columns = several ? [boxColumn(selection, several.nameOf), ...drawn] : drawn;
  const narrowing = ['search', 'kind', 'dated', ...filters.map(({ name }) => name)];
  const typedAny = narrowing.some((name) => given(name) !== '');
  const isUsual = usual !== undefined && given('state') === '' && !typedAny;
  const asked = {
    search: given('search'),
    state: isUsual ? usual.state : given('state') === ALL ? '' : given('state'),
    ...(kinds ? { kind: given('kind') } : {}),
    ...(dates ? { dated: given('dated'), from: given('from'), until: given('until') } : {}),
    ...Object.fromEntries(filters.map(({ name }) => [name, given(name)])),
  } as Readonly<Record<'search' | 'state', string>> & Readonly<Record<string, string>>;
  const sort = given('sort');
  const [sight, setSight] = useState({ first: 0, last: 20 });
  const { total, more, at, error } = useRows<Row>(path, { ...asked, sort }, sight.first, sight.last);
  const [typed, setTyped] = useState(asked.search);
  // What is searched for follows the address where a link changes it, and not the other way round.
  const [sent, setSent] = useState(asked.search);
  const [known, setKnown] = useState(asked.search);
  if (asked.search !== known) {
    setKnown(asked.search);
    if (asked.search !== sent) setTyped(asked.search);
  }

  const set = useCallback(
    (changes: Readonly<Record<string, string>>) =>
      setParams(
        (now) => {
          const next = new URLSearchParams(now);
          for (const [name, value] of Object.entries(changes)) {
            if (value) next.set(name, value);
            else next.delete(name);
          }
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  useEffect(() => {
    if (typed === asked.search) return;
    const timer = setTimeout(() => {
      setSent(typed);
      set({ search: typed });
    }, 200);
    return () => clearTimeout(timer);
  });
  const onSort = useCallback((to: string) => set({ sort: to }), [set]);
  const onSight = useCallback(
    (first: number, last: number) =>
      setSight((now) => (now.first === first && now.last === last ? now : { first, last })),
    [],
  );

  const isFiltered = !isUsual && Object.values(asked).some((value) => value !== '');
  const clear = () => {
    setTyped('');
    setSent('');
    set({ ...Object.fromEntries(Object.keys(asked).map((name) => [name, ''])), state: usual ? ALL : '' });
  };
  return (
    <Box>
      <Flex gap="3" mb="3" align="center" wrap="wrap">
        <Input
          size="sm"
          maxW="220px"
          placeholder="Search"
          aria-label={`Search ${label}`}
          maxLength={100}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        {(states.length > 0 || usual !== undefined) && (
          <Choice
            label="State"
            all={usual && !typedAny ? usual.says : kinds || dates ? 'Any state' : 'All'}
            value={given('state')}
            choices={[
              ...(usual ? [[ALL, 'Any state'] as const] : []),
              ...states.map((one) => [one, one] as const),
            ]}
            onChange={(state) => set({ state })}
          />
        )}
        {kinds && (
          <Choice
            label={anyKind.replace(/^Any (.)/, (_, first: string) => first.toUpperCase())}
            all={anyKind}
            value={given('kind')}
            choices={Object.entries(kinds)}
            onChange={(kind) => set({ kind })}
          />
        )}
        {filters.map(({ name, label: what, all, choices }) => (
          <Choice
            key={name}
            label={what}
            all={all}
            value={given(name)}
            choices={choices}
            onChange={(to) => set({ [name]: to })}
          />
        ))}
        {dates && (
          <DatedFilter
            of={dates}
            value={{ dated: given('dated'), from: given('from'), until: given('until') }}
            onChange={(to) => set({ ...to })}
          />
        )}
        {views !== undefined && (
          <Button size="xs" variant="outline" aria-expanded={viewing} onClick={() => setViewing(!viewing)}>
            {params.get('view') ?? 'View'}
          </Button>
        )}
        {total !== undefined && total > 0 && (
          <TextLink
            href={withQuery(`${path}.csv`, { ...asked, sort })}
            download
            ml="auto"
            fontSize="13px"
            color="muted"
            title={`Save these ${label} as a file for a spreadsheet (CSV)`}
          >
            Save as CSV
          </TextLink>
        )}
        <Text color="muted" ml={total ? undefined : 'auto'} aria-live="polite">
          {total === undefined
            ? ''
            : `${more ? 'more than ' : ''}${sayCount(total)} ${total === 1 ? singular(label) : label}`}
        </Text>
      </Flex>
      {views !== undefined && viewing && (
        <Suspense fallback={null}>
          <Views
            list={views}
            saved={saved ?? []}
            all={props.columns}
            shown={shown}
            asked={Object.fromEntries(ASKED.map((name) => [name, given(name)]).filter(([, value]) => value))}
            onTake={(view) => {
              setTyped(view.asked.search ?? '');
              set({
                ...Object.fromEntries(ASKED.map((name) => [name, view.asked[name] ?? ''])),
                view: view.name,
              });
            }}
          />
        </Suspense>
      )}
      {error && <Text color="declined">{error.message}</Text>}
      {total === undefined && !error && <Loading shape="rows" />}
      {total === 0 && !isFiltered && (
        <Box py="8">
          {empty}
          {isUsual && (
            <Button variant="plain" size="sm" color="kelp.fg" px="0" onClick={clear}>
              Show those that have ended too
            </Button>
          )}
        </Box>
      )}
      {total === 0 && isFiltered && (
        <Text py="8" color="muted">
          Nothing matches.{' '}
          <Button variant="plain" size="sm" color="kelp.fg" onClick={clear}>
            Show everything
          </Button>
        </Text>
      )}
      {several && (
        <ChosenBar selection={selection} path={path} asked={asked} total={more ? Infinity : (total ?? 0)}>
          {several.act([...selection.rows.values()])}
        </ChosenBar>
      )}
      {total !== undefined && total > 0 && (
        <VirtualTable {...{ label, columns, total, at, sort, onSort, chosen, onChoose, onSight }} />
      )}
      {more && (
        <Text mt="2" color="muted">
          These are the first {sayCount(total ?? 0)}. Search, or choose a filter, to see the others.
        </Text>
      )}
    </Box>
  );
}
