import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import {
  lazy,
  memo,
  Suspense,
  startTransition,
  useCallback,
  useDeferredValue,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
} from 'react';
import { printAmount, readAmount, readWhole } from '../../../../core/typed/amount.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import type { TermsPrice } from '../../../../core/terms/schema.ts';
import { explainPrice } from '../../../../core/words/explainPrice.ts';
import type { TierDraft } from './draft.ts';
import { UNIT_DECIMALS } from '../../../parts/AmountField.tsx';
import { useManner } from '../../../parts/manner.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { useTyped } from '../../../parts/useTyped.ts';

const PriceChart = lazy(() => import('./PriceChart.tsx'));

interface Props {
  readonly tiers: readonly TierDraft[];
  readonly scheme: 'each-tier' | 'reached-tier' | 'step';
  readonly currency: string;
  readonly price: Record<string, unknown>;
  readonly faultAt: (pointer: string) => string | undefined;
  /** The same function each time, so that rows are not drawn in vain. */
  readonly onTiers: (tiers: readonly TierDraft[]) => void;
}

type Column = 'to' | 'each' | 'amount';
const TIERS: readonly Column[] = ['to', 'each', 'amount'];
const STEPS: readonly Column[] = ['to', 'amount'];

/**
 * Tiers as a small table: arrow keys and Enter move between cells, rows are pasted from a spreadsheet. A tier begins
 * where the one before it ends, and the last holds all that is left, so that there can be no gap and no overlap.
 */
export function TierEditor(props: Props) {
  const { scheme, currency, price, faultAt, onTiers } = props;
  const columns = scheme === 'step' ? STEPS : TIERS;
  const asked = useDeferredValue(JSON.stringify(price));
  const { tiers, update, pass } = useTypedFirst(props.tiers, onTiers);
  const { locale } = useManner();
  const handlers = useMemo(() => handlersOf(update, columns, locale), [update, columns, locale]);
  return (
    <Flex gap="5" align="flex-start" wrap="wrap">
      <Box flex="1 1 330px">
        <Table.Root
          size="sm"
          aria-label="Tiers"
          bg="page"
          css={{ '& td, & th': { p: '2px 4px', borderColor: 'lines' }, '& input': TIER_INPUT }}
          onBlur={pass}
          onPaste={handlers.paste}
          onKeyDown={handlers.key}
        >
          <Table.Header>
            <Table.Row bg="page">
              <Table.ColumnHeader color="muted" textAlign="end">
                From
              </Table.ColumnHeader>
              <Table.ColumnHeader color="muted" textAlign="end">
                Up to
              </Table.ColumnHeader>
              {scheme !== 'step' && (
                <Table.ColumnHeader color="muted" textAlign="end">
                  Each, {currency}
                </Table.ColumnHeader>
              )}
              <Table.ColumnHeader color="muted" textAlign="end">
                {scheme === 'step' ? `Price, ${currency}` : 'Fixed'}
              </Table.ColumnHeader>
              <Table.ColumnHeader />
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {tiers.map((tier, i) => (
              <TierRow
                key={i}
                at={i}
                tier={tier}
                from={i === 0 ? '1' : afterText(tiers[i - 1]?.to ?? '')}
                last={i === tiers.length - 1}
                columns={columns}
                fault={columns
                  .map((column) => faultAt(`/tiers/${i}/${column}`))
                  .find((said) => said !== undefined)}
                onType={handlers.type}
                onRemove={handlers.remove}
                only={tiers.length === 1}
              />
            ))}
          </Table.Body>
        </Table.Root>
        <Button mt="2" size="xs" variant="outline" onClick={handlers.add}>
          Add a tier
        </Button>
        <Text color="muted" fontSize="13px" mt="1">
          Arrow keys and Enter move; rows can be pasted from a spreadsheet.
        </Text>
      </Box>
      <Box flex="1 1 250px">
        <Tried price={asked} currency={currency} />
      </Box>
    </Flex>
  );
}

/** The form around a table of tiers follows when nobody has typed for so long, in milliseconds. */
const PAUSE = 150;

/**
 * Tiers as they are typed. What is typed is drawn at once, here alone; the form around, with all that it computes,
 * follows when the typing pauses, or when the table is left.
 */
function useTypedFirst(given: readonly TierDraft[], onTiers: Props['onTiers']) {
  const [typed, setTyped] = useState({ tiers: given, given });
  const [own] = useState(() => new WeakSet<readonly TierDraft[]>());
  const newest = useRef(typed.tiers);
  const waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
  if (given !== typed.given && !own.has(given)) setTyped({ tiers: given, given });
  useEffect(() => {
    newest.current = typed.tiers;
  }, [typed.tiers]);
  // What the form around has: what was passed on in a transition may not have come to it yet.
  const has = useRef(given);
  useEffect(() => {
    has.current = given;
  }, [given]);
  // Whoever leaves the table may press the button that stores the form: it has what was typed by then, and not a moment later.
  const pass = useCallback(() => {
    clearTimeout(waiting.current);
    waiting.current = undefined;
    if (own.has(newest.current) && has.current !== newest.current) onTiers(newest.current);
  }, [onTiers, own]);
  useEffect(() => pass, [pass]);
  const update = useCallback(
    (change: (tiers: readonly TierDraft[]) => readonly TierDraft[]) => {
      const tiers = change(newest.current);
      newest.current = tiers;
      own.add(tiers);
      setTyped((now) => ({ ...now, tiers }));
      clearTimeout(waiting.current);
      waiting.current = setTimeout(() => startTransition(pass), PAUSE);
    },
    [pass, own],
  );
  return { tiers: typed.tiers, update, pass };
}

const TIER_INPUT = {
  width: '100%',
  minWidth: '58px',
  background: 'transparent',
  border: '1px solid transparent',
  padding: '3px 4px',
  textAlign: 'right',
  fontVariantNumeric: 'tabular-nums',
} as const;

const afterText = (to: string) => (/^\d+$/.test(to.trim()) ? String(Number(to) + 1) : '…');

interface RowProps {
  readonly at: number;
  readonly tier: TierDraft;
  readonly from: string;
  readonly last: boolean;
  readonly only: boolean;
  readonly columns: readonly Column[];
  readonly fault: string | undefined;
  readonly onType: (at: number, column: Column, text: string) => void;
  readonly onRemove: (at: number) => void;
}

const NAMES: Readonly<Record<Column, string>> = { to: 'Up to', each: 'Each', amount: 'Fixed' };

const TierRow = memo(function TierRow(props: RowProps) {
  const { at, tier, from, last, only, columns, fault, onType, onRemove } = props;
  return (
    <>
      <Table.Row bg="page">
        <Table.Cell color="muted" textAlign="end">
          {from}
        </Table.Cell>
        {columns.map((column) => (
          <Table.Cell key={column}>
            {column === 'to' && last ? (
              <Box color="muted" textAlign="end" px="1">
                and more
              </Box>
            ) : (
              <TierCell
                at={at}
                column={column}
                place={columns.indexOf(column)}
                value={tier[column]}
                bad={fault !== undefined}
                onType={onType}
              />
            )}
          </Table.Cell>
        ))}
        <Table.Cell>
          {!only && (
            <Button
              size="2xs"
              variant="ghost"
              aria-label={`Take out tier ${at + 1}`}
              onClick={() => onRemove(at)}
            >
              ×
            </Button>
          )}
        </Table.Cell>
      </Table.Row>
      {fault !== undefined && (
        <Table.Row bg="page">
          <Table.Cell colSpan={columns.length + 2} color="declined" whiteSpace="normal">
            {fault}
          </Table.Cell>
        </Table.Row>
      )}
    </>
  );
});

/** What a cell of a column holds, read in the manner of the business. */
function readCell(column: Column, text: string, locale: string) {
  return column === 'to'
    ? readWhole(text, locale, { least: 1, most: 999_999_999_999 })
    : readAmount(text, locale, { currency: null, decimals: UNIT_DECIMALS });
}

function TierCell(props: {
  readonly at: number;
  readonly column: Column;
  readonly place: number;
  readonly value: string;
  readonly bad: boolean;
  readonly onType: RowProps['onType'];
}) {
  const { at, column, place, value, bad, onType } = props;
  const { locale } = useManner();
  const { says, bind } = useTyped({
    value,
    onChange: ({ target }) => onType(at, column, target.value),
    read: (text) => readCell(column, text, locale),
    print: (stored) => printAmount(stored, locale, 0),
  });
  return (
    <input
      data-cell={`${at}:${place}`}
      aria-label={`${NAMES[column]}, tier ${at + 1}`}
      aria-invalid={bad || says !== undefined}
      title={says}
      inputMode="decimal"
      maxLength={60}
      {...bind}
    />
  );
}

function handlersOf(
  update: (change: (tiers: readonly TierDraft[]) => readonly TierDraft[]) => void,
  columns: readonly Column[],
  locale: string,
) {
  const cellOf = (target: EventTarget) => {
    const [at, column] = (target as HTMLElement).dataset.cell?.split(':').map(Number) ?? [];
    return at === undefined || column === undefined ? null : { at, column };
  };
  return {
    type: (at: number, column: Column, text: string) =>
      update((tiers) => tiers.map((tier, i) => (i === at ? { ...tier, [column]: text } : tier))),
    remove: (at: number) => update((tiers) => tiers.filter((_, i) => i !== at)),
    add: () =>
      update((tiers) => {
        // The new tier takes over "and more"; the one before it gets an end after the tier before.
        const before = Number(tiers.at(-2)?.to ?? 0);
        const ended = tiers.map((tier, i) =>
          i === tiers.length - 1 && tier.to === ''
            ? { ...tier, to: String((Number.isFinite(before) ? before : 0) + 10) }
            : tier,
        );
        return [...ended, { to: '', each: '', amount: '' }];
      }),
    key: (event: KeyboardEvent<HTMLTableElement>) => {
      const cell = cellOf(event.target);
      const steps: Record<string, number> = { ArrowDown: 1, Enter: 1, ArrowUp: -1 };
      const step = steps[event.key];
      if (!cell || step === undefined) return;
      event.preventDefault();
      const next = `[data-cell="${cell.at + step}:${cell.column}"]`;
      event.currentTarget.querySelector<HTMLInputElement>(next)?.focus();
    },
    paste: (event: ClipboardEvent) => {
      const cell = cellOf(event.target);
      const rows = event.clipboardData
        .getData('text')
        .replace(/\r?\n$/, '')
        .split(/\r?\n/)
        .map((row) => row.split('\t').map((text) => text.trim()));
      if (!cell || (rows.length === 1 && rows[0]?.length === 1)) return;
      event.preventDefault();
      update((tiers) => pastedInto(tiers, cell, rows, columns, locale));
    },
  };
}

/** Most tiers that a paste makes. */
const MOST_TIERS = 2000;

/** Tiers with rows of a spreadsheet laid over them from a cell on. */
function pastedInto(
  tiers: readonly TierDraft[],
  cell: { readonly at: number; readonly column: number },
  rows: readonly (readonly string[])[],
  columns: readonly Column[],
  locale: string,
): readonly TierDraft[] {
  const laid = rows.map((row, r) => {
    const values = row.flatMap((text, c) => {
      const column = columns[cell.column + c];
      if (!column) return [];
      const reading = readCell(column, text, locale);
      return [[column, /^(and more|∞|null)$/i.test(text) ? '' : reading.ok ? reading.value : text] as const];
    });
    return { ...(tiers[cell.at + r] ?? { to: '', each: '', amount: '' }), ...Object.fromEntries(values) };
  });
  // Rows that end with "and more" are the whole end of the table: nothing comes after it.
  const ends = columns[cell.column] === 'to' && laid.at(-1)?.to === '';
  const after = ends ? [] : tiers.slice(cell.at + rows.length);
  return [...tiers.slice(0, cell.at), ...laid, ...after].slice(0, MOST_TIERS);
}

/** The chart of the price, and what a quantity comes to, step by step. `price` is JSON, so that it is drawn anew only when it changed. */
const Tried = memo(function Tried({ price: asked, currency }: { price: string; currency: string }) {
  const [quantity, setQuantity] = useState('12');
  const good = useMemo(() => {
    const price = JSON.parse(asked) as TermsPrice;
    const terms = { currency, starts: '2027-01-01', interval: 'P1M', lines: [{ price }] };
    return checkTerms(terms).ok ? price : null;
  }, [asked, currency]);
  if (good === null) return <Text color="muted">The chart appears once every tier has its price.</Text>;
  const count = /^[1-9]\d{0,8}$/.test(quantity) ? Number(quantity) : null;
  const explained = count === null ? null : explainPrice(good, count, currency);
  return (
    <>
      <Suspense fallback={<Box h="220px" />}>
        <PriceChart price={good} currency={currency} joins={joinsOf(good)} />
      </Suspense>
      <Box mt="3" maxW="150px">
        <QuantityField
          label="Try a quantity"
          most={999_999_999}
          value={quantity}
          error={count === null ? 'Give a whole number from 1.' : undefined}
          onChange={(event) => setQuantity(event.target.value)}
        />
      </Box>
      {explained && (
        <Box role="status" mt="2">
          {explained.steps.map((step, i) => (
            <Flex key={i}>
              <Box flex="1">{step.says}</Box>
              <Box>{step.comesTo}</Box>
            </Flex>
          ))}
          <Flex fontWeight="600" borderTopWidth="1px" borderColor="lines">
            <Box flex="1">In all</Box>
            <Box>{explained.total}</Box>
          </Flex>
        </Box>
      )}
    </>
  );
});

function joinsOf(price: TermsPrice): number[] {
  return 'tiers' in price ? price.tiers.flatMap(({ to }) => (to === null ? [] : [to])) : [];
}
