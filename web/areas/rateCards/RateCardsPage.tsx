import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { lazy } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { RateCardView } from '../../../server/rateCards/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';

// Loaded when a card is first chosen.
const Archive = lazy(() => import('../../parts/Archive.tsx').then((part) => ({ default: part.Archive })));
const ApplyCard = lazy(() => import('./ApplyCard.tsx').then((part) => ({ default: part.ApplyCard })));

const COLUMNS: readonly Column<RateCardView>[] = [
  { heading: 'Rate card', sort: 'name', width: '28%', cell: ({ name }) => name },
  { heading: 'Who may have it', cell: ({ says }) => <span title={says}>{says}</span> },
  { heading: 'Prices', width: '80px', right: true, cell: ({ prices }) => prices.length },
  { heading: 'Have it', sort: 'taken', width: '90px', right: true, cell: ({ taken }) => taken },
];

/** Named sets of other prices, who may have them, and applying them to those who run already. */
export function RateCardsPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('card');
  return (
    <PageAndMargin
      title="Rate cards"
      action={
        <ForWriters>
          <Button asChild size="sm" colorPalette="kelp">
            <Link to="/rate-cards/new">Make a rate card</Link>
          </Button>
        </ForWriters>
      }
      marginLabel="The chosen rate card"
      margin={chosen !== null && <Chosen key={chosen} id={chosen} />}
    >
      <Text color="muted" mb="3">
        A rate card is a named set of other prices for the same rates: for a group of customers, for whoever
        has a code, or given by hand.
      </Text>
      <ListPage<RateCardView>
        path="/api/rate-cards"
        label="rate cards"
        columns={COLUMNS}
        states={['archived']}
        empty={
          <Text>There is no rate card yet. Make one to give a group of customers prices of its own.</Text>
        }
        chosen={chosen}
        onChoose={({ id }) =>
          setParams(
            (now) => {
              const next = new URLSearchParams(now);
              next.set('card', id);
              return next;
            },
            { replace: true },
          )
        }
      />
    </PageAndMargin>
  );
}

function Chosen({ id }: { readonly id: string }) {
  const { data: card, error } = useAnswer<RateCardView>(`/api/rate-cards/${id}`);
  if (error) return <Text>{error.message}</Text>;
  if (!card || card.id !== id) return null;
  const archived = card.archivedOn !== null;
  return (
    <>
      <MarginHeading>{card.name}</MarginHeading>
      <Text mb="3">
        {card.says}. {card.taken} {card.taken === 1 ? 'subscription has' : 'subscriptions have'} it.
      </Text>
      <ForWriters>
        <Flex gap="2" mb="2">
          <Button asChild size="xs" variant="outline">
            <Link to={`/rate-cards/${card.id}`}>Change</Link>
          </Button>
        </Flex>
        {!archived && (
          <Box mt="3">
            <ApplyCard card={card} />
          </Box>
        )}
        <Archive
          key={card.id}
          what="rate card"
          id={card.id}
          name={card.name}
          archived={archived}
          subscribers={card.taken}
        />
      </ForWriters>
    </>
  );
}
