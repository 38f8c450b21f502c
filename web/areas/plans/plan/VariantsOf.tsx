import { Button, Table, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import { offersRate } from '../../../../core/offer/variant.ts';
import { sayPrice } from '../../../../core/words/sayRate.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { ForWriters } from '../../../frame/ForWriters.tsx';
import { linesOf } from '../rate/OtherPrices.tsx';

/** The variants of a plan side by side: under each rate the price they have. */
export function VariantsOf({ plan }: { readonly plan: PlanView }) {
  const rates = plan.rates.filter(
    ({ archivedOn, terms }) => archivedOn === null && linesOf(terms).length > 0,
  );
  return (
    <>
      <Text as="h2" fontFamily="heading" fontSize="16px" mt="6" mb="2">
        Variants
      </Text>
      <Table.Root size="sm" aria-label="Variants" bg="page" borderWidth="1px" borderColor="lines">
        <Table.Header>
          <Table.Row bg="page">
            <Table.ColumnHeader color="muted">Variant</Table.ColumnHeader>
            {rates.map(({ id, name }) => (
              <Table.ColumnHeader key={id} color="muted">
                {name}
              </Table.ColumnHeader>
            ))}
            <Table.ColumnHeader color="muted" textAlign="end">
              Subscribers
            </Table.ColumnHeader>
            <Table.ColumnHeader />
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {plan.variants.map((variant) => (
            <Table.Row key={variant.id} bg="page" color={variant.archivedOn ? 'muted' : undefined}>
              <Table.Cell>
                {variant.name}
                {variant.archivedOn ? ' (archived)' : ''}
              </Table.Cell>
              {rates.map(({ id, terms }) => (
                <Table.Cell key={id} color={offersRate(variant, id) ? undefined : 'muted'}>
                  {offersRate(variant, id)
                    ? linesOf(terms)
                        .map(({ price }, i) =>
                          sayPrice(variant.prices[id]?.[i] ?? price, String(terms.currency)),
                        )
                        .join(' + ')
                    : 'not at this rate'}
                </Table.Cell>
              ))}
              <Table.Cell textAlign="end">{variant.subscribers}</Table.Cell>
              <Table.Cell textAlign="end">
                <ForWriters>
                  <Button asChild size="2xs" variant="outline">
                    <Link to={`/plans/${plan.id}/variants/${variant.id}`}>Change</Link>
                  </Button>
                </ForWriters>
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </>
  );
}
