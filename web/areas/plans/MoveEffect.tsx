import { Box, Table, Text } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { MoveEffect as Moves } from '../../../server/plans/messages.ts';
import { post } from '../../api/client.ts';
import { sayCount } from '../../parts/sayCount.ts';

/** Who moves, when, and how much a month it changes: asked of the server a moment after the typing stops. */
export function MoveEffect({ path, message }: { readonly path: string; readonly message: object }) {
  const [effect, setEffect] = useState<Moves | null>(null);
  const [says, setSays] = useState('');
  const asked = JSON.stringify(message);
  useEffect(() => {
    let current = true;
    const timer = setTimeout(() => {
      post<Moves>(path, JSON.parse(asked)).then(
        (found) => current && (setEffect(found), setSays('')),
        (error: Error) => current && (setEffect(null), setSays(error.message)),
      );
    }, 350);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [asked, path]);
  if (says !== '') return <Text color="declined">{says}</Text>;
  if (!effect) return <Text color="muted">Looking …</Text>;
  const { moves, stay, shown, sums } = effect;
  const others = moves + stay - shown.length;
  return (
    <Box role="status">
      {sums.map(({ currency, before, after }) => (
        <Text key={currency}>
          A month: {sayAmount(BigInt(before), currency)} now, <b>{sayAmount(BigInt(after), currency)}</b>{' '}
          then.
        </Text>
      ))}
      <Text>
        {sayCount(moves)} move{stay > 0 ? `, ${sayCount(stay)} stay` : ''}:
      </Text>
      <Table.Root
        size="sm"
        aria-label="Who moves"
        css={{ '& tr, & td': { px: '1', py: '2px', bg: 'transparent' } }}
      >
        <Table.Body>
          {shown.map((one) => (
            <Table.Row key={one.subscriptionId}>
              <Table.Cell>{one.customer}</Table.Cell>
              <Table.Cell>{one.stays ?? (one.effectiveOn && sayDate(one.effectiveOn))}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {others > 0 && <Text color="muted">and {sayCount(others)} more</Text>}
    </Box>
  );
}
