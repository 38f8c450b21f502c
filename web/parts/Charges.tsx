import { Box, Table } from '@chakra-ui/react';
import { sayFigure } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';

export interface Charge {
  readonly date: string;
  readonly kind: string;
  /** The day it is invoiced on, where that is another than the one it is due on. */
  readonly issuedOn?: string;
  /** What is to be paid, with its tax; minor units. */
  readonly due: bigint;
  /** The tax in it, where it is known. */
  readonly tax?: bigint;
}

/** What comes after the charges that are listed, where it comes to an end. */
export interface Rest {
  readonly count: number;
  /** Of all charges, those listed and those after them; minor units. */
  readonly total: bigint;
}

/** Coming charges by date, with the running total: what a form will do, before it is saved. */
export function Charges(props: {
  readonly charges: readonly Charge[];
  readonly currency: string;
  readonly rest?: Rest | null | undefined;
}) {
  const { charges, currency, rest } = props;
  const hasTax = charges.some(({ tax }) => tax !== undefined && tax !== 0n);
  const totals = charges.reduce<bigint[]>((sums, { due }) => [...sums, (sums.at(-1) ?? 0n) + due], []);
  return (
    <Table.Root
      size="sm"
      aria-label="Coming charges"
      css={{ '& td, & th': { px: '1', py: '3px', borderColor: 'lines', bg: 'transparent' } }}
    >
      <Table.Header>
        <Table.Row bg="transparent">
          <Table.ColumnHeader color="muted">
            {charges.some(({ issuedOn }) => issuedOn !== undefined) ? 'Due' : 'Date'}
          </Table.ColumnHeader>
          <Table.ColumnHeader color="muted" textAlign="end">
            {hasTax ? 'With tax' : 'Charge'}, {currency}
          </Table.ColumnHeader>
          <Table.ColumnHeader color="muted" textAlign="end">
            In all
          </Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {charges.map((charge, i) => (
          <Table.Row
            key={`${charge.date}${i}`}
            bg="transparent"
            title={charge.tax ? `${sayFigure(charge.tax, currency)} of it is tax` : undefined}
          >
            <Table.Cell whiteSpace="nowrap">
              {sayDate(charge.date)}
              {charge.kind !== 'period' && (
                <Box as="span" color="muted" ml="1">
                  {KINDS[charge.kind] ?? charge.kind}
                </Box>
              )}
              {charge.issuedOn !== undefined && (
                <Box color="muted" fontSize="12px" lineHeight="14px">
                  invoiced {sayDate(charge.issuedOn)}
                </Box>
              )}
            </Table.Cell>
            <Table.Cell textAlign="end">{sayFigure(charge.due, currency)}</Table.Cell>
            <Table.Cell textAlign="end" color="muted">
              {sayFigure(totals[i] ?? 0n, currency)}
            </Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
      {rest && charges.length + rest.count > 1 && (
        <Table.Footer>
          <Table.Row bg="transparent" fontWeight="600">
            <Table.Cell>{rest.count > 0 ? `and ${rest.count} more: in all` : 'In all'}</Table.Cell>
            <Table.Cell />
            <Table.Cell textAlign="end">{sayFigure(rest.total, currency)}</Table.Cell>
          </Table.Row>
        </Table.Footer>
      )}
    </Table.Root>
  );
}

const KINDS: Readonly<Record<string, string>> = {
  stub: 'part',
  trial: 'trial',
  once: 'once',
  change: 'change',
  due: 'due',
};
