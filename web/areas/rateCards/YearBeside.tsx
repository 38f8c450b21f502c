import { Table, Text } from '@chakra-ui/react';
import { composeTerms, type RateTerms } from '../../../core/offer/composeTerms.ts';
import { yearOf } from '../../../core/offer/compareRates.ts';
import { sayFigure } from '../../../core/words/amount.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { useFrame } from '../../frame/useFrame.ts';
import { pricesOf } from '../plans/rate/OtherPrices.tsx';
import { rateNamed, type CardDraft } from './cardDraft.ts';

interface Props {
  readonly prices: CardDraft['prices'];
  readonly plans: readonly PlanView[];
}

/** What a year of each rate comes to, ordinarily and by the card, for one of its first line. */
export function YearBeside({ prices, plans }: Props) {
  const { businessDate } = useFrame();
  const rows = prices.flatMap(({ rateId, variantId, prices: of }) => {
    const found = rateNamed(plans, rateId);
    if (!found) return [];
    const { plan, rate } = found;
    const variant = plan.variants.find(({ id }) => id === variantId);
    const terms = rate.terms as unknown as RateTerms;
    const ofVariant = variant?.prices[rateId];
    const year = (laid: readonly (typeof ofVariant | undefined)[]) =>
      yearOf(composeTerms(terms, { starts: businessDate, prices: laid }), businessDate);
    return [
      {
        key: `${rateId}:${variantId}`,
        says: `${[plan.name, rate.name, variant?.name].filter(Boolean).join(', ')}, ${String(rate.terms.currency)}`,
        currency: String(rate.terms.currency),
        before: year([ofVariant]),
        after: year([ofVariant, [...pricesOf(of)]]),
      },
    ];
  });
  if (rows.length === 0) return <Text color="muted">Add a rate to see both prices side by side.</Text>;
  return (
    <Table.Root
      size="sm"
      aria-label="A year, side by side"
      css={{ '& td, & th': { px: '1', bg: 'transparent' } }}
    >
      <Table.Header>
        <Table.Row bg="transparent">
          <Table.ColumnHeader color="muted">A year of one, net</Table.ColumnHeader>
          <Table.ColumnHeader color="muted" textAlign="end">
            Ordinarily
          </Table.ColumnHeader>
          <Table.ColumnHeader color="muted" textAlign="end">
            By the card
          </Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {rows.map(({ key, says, currency, before, after }) => (
          <Table.Row key={key} bg="transparent">
            <Table.Cell>{says}</Table.Cell>
            <Table.Cell textAlign="end">{before === null ? '' : sayFigure(before, currency)}</Table.Cell>
            <Table.Cell textAlign="end" fontWeight="600">
              {after === null ? '…' : sayFigure(after, currency)}
            </Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  );
}
