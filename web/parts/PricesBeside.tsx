import { Table } from '@chakra-ui/react';
import type { PriceBeside } from '../../core/offer/pricesBeside.ts';
import { sayFigure } from '../../core/words/amount.ts';

interface Props {
  readonly title: string;
  readonly lines: readonly PriceBeside[];
  readonly currency: string;
  /** What the two columns are called. */
  readonly headings?: readonly [string, string];
  /** What the prices leave out: ' without tax'. */
  readonly note?: string;
  /** The same in the words of another language. */
  readonly of?: string;
  readonly inAll?: string;
  readonly say?: (amount: bigint) => string;
}

/** Prices of one period, the present and the other, line by line with their sums. */
export function PricesBeside(props: Props) {
  const { title, lines, currency, headings = ['Now', 'Then'], note = '' } = props;
  const { of: what = `List prices${note}, ${currency}`, inAll = 'In all' } = props;
  const { say = (amount: bigint) => sayFigure(amount, currency) } = props;
  if (lines.length === 0) return null;
  const sum = (of: 'before' | 'after') => lines.reduce((total, line) => total + (line[of] ?? 0n), 0n);
  const figure = (amount: bigint | null) => (amount === null ? '' : say(amount));
  return (
    <Table.Root
      size="sm"
      mb="4"
      aria-label={title}
      css={{ '& td, & th': { px: '1', py: '3px', borderColor: 'lines', bg: 'transparent' } }}
    >
      <Table.Caption captionSide="top" textAlign="start" mb="1" mt="0" px="1" fontWeight="500" color="ink">
        {title}
      </Table.Caption>
      <Table.Header>
        <Table.Row bg="transparent">
          <Table.ColumnHeader color="muted">{what}</Table.ColumnHeader>
          <Table.ColumnHeader color="muted" textAlign="end">
            {headings[0]}
          </Table.ColumnHeader>
          <Table.ColumnHeader color="muted" textAlign="end">
            {headings[1]}
          </Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {lines.map(({ name, before, after }, i) => (
          <Table.Row key={i} bg="transparent">
            <Table.Cell>{name}</Table.Cell>
            <Table.Cell textAlign="end">{figure(before)}</Table.Cell>
            <Table.Cell textAlign="end" fontWeight={before === after ? undefined : '600'}>
              {figure(after)}
            </Table.Cell>
          </Table.Row>
        ))}
        {lines.length > 1 && (
          <Table.Row bg="transparent" fontWeight="600">
            <Table.Cell>{inAll}</Table.Cell>
            <Table.Cell textAlign="end">{figure(sum('before'))}</Table.Cell>
            <Table.Cell textAlign="end">{figure(sum('after'))}</Table.Cell>
          </Table.Row>
        )}
      </Table.Body>
    </Table.Root>
  );
}
