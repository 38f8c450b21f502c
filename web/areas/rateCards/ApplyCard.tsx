import { Box, Button, RadioGroup, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayFigure } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { CardEffect, RateCardView } from '../../../server/rateCards/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { TickField } from '../../parts/TickField.tsx';

/**
 * The subscriptions that run and may have a card, each with both prices; those ticked get it by the one button, and
 * have it then.
 */
export function ApplyCard({ card }: { readonly card: RateCardView }) {
  const { data: candidates } = useAnswer<CardEffect[]>(`/api/rate-cards/${card.id}/candidates`);
  const ofGroup = card.givenBy === 'group';
  const [leftOut, setLeftOut] = useState<readonly string[]>([]);
  const [ticked, setTicked] = useState<readonly string[]>([]);
  const [from, setFrom] = useState<'now' | 'renewal'>('renewal');
  const acting = useAct();
  if (!candidates) return <Text color="muted">Looking who may have it …</Text>;
  const good = candidates.filter(({ refused }) => refused === null);
  // Of a group everybody is meant; of other cards those that one picks.
  const isChosen = (id: string) => (ofGroup ? !leftOut.includes(id) : ticked.includes(id));
  const chosen = good.filter(({ subscriptionId }) => isChosen(subscriptionId));
  const toggle = (id: string) => {
    const change = (now: readonly string[]) =>
      now.includes(id) ? now.filter((one) => one !== id) : [...now, id];
    if (ofGroup) setLeftOut(change);
    else setTicked(change);
  };
  const apply = () =>
    acting.act(async () => {
      const subscriptions = chosen.map(({ subscriptionId }) => subscriptionId);
      await post(`/api/rate-cards/${card.id}/apply`, { subscriptions, from });
      setTicked([]);
    }, `Applied to ${chosen.length}; each was written to.`);
  return (
    <>
      <MarginHeading>For those who subscribe already</MarginHeading>
      {candidates.length === 0 ? (
        <Text color="muted">Nobody who may have it is without it.</Text>
      ) : (
        <>
          <Table.Root
            size="sm"
            aria-label="Who may have it"
            css={{ '& td, & th': { px: '1', py: '2px', bg: 'transparent' } }}
          >
            <Table.Header>
              <Table.Row bg="transparent">
                <Table.ColumnHeader color="muted">List price</Table.ColumnHeader>
                <Table.ColumnHeader color="muted" textAlign="end">
                  Now
                </Table.ColumnHeader>
                <Table.ColumnHeader color="muted" textAlign="end">
                  Then
                </Table.ColumnHeader>
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {candidates.map((one) => (
                <Table.Row key={one.subscriptionId} bg="transparent">
                  <Table.Cell>
                    <TickField
                      label={one.customer}
                      checked={one.refused === null && isChosen(one.subscriptionId)}
                      disabled={one.refused !== null}
                      onChange={() => toggle(one.subscriptionId)}
                    />
                    <Text color="muted" fontSize="12px">
                      {one.refused ??
                        `${one.plan}${from === 'renewal' && one.effectiveOn ? `, from ${sayDayMonthYear(one.effectiveOn)}` : ''}`}
                    </Text>
                  </Table.Cell>
                  <Table.Cell textAlign="end">
                    {one.refused === null && sayFigure(BigInt(one.before), one.currency)}
                  </Table.Cell>
                  <Table.Cell textAlign="end" fontWeight="600">
                    {one.refused === null && sayFigure(BigInt(one.after), one.currency)}
                  </Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
          <RadioGroup.Root
            mt="3"
            aria-label="From when"
            colorPalette="kelp"
            value={from}
            onValueChange={({ value }) => setFrom(value === 'now' ? 'now' : 'renewal')}
          >
            {(['renewal', 'now'] as const).map((value) => (
              <RadioGroup.Item key={value} value={value}>
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator />
                <RadioGroup.ItemText>
                  {value === 'renewal'
                    ? 'from their next renewal'
                    : 'from today, the rest of the period settled'}
                </RadioGroup.ItemText>
              </RadioGroup.Item>
            ))}
          </RadioGroup.Root>
          <Box mt="3">
            <Button
              size="sm"
              colorPalette="kelp"
              disabled={chosen.length === 0}
              loading={acting.busy}
              onClick={() => void apply()}
            >
              Apply to {chosen.length}
            </Button>
          </Box>
        </>
      )}
      <Outcome of={acting} />
    </>
  );
}
