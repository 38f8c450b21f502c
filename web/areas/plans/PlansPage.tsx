import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { lazy } from 'react';
import { Link, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { PLAN_KINDS } from '../../../core/offer/kinds.ts';
import type { PlanRow } from '../../../server/plans/messages.ts';
import { SUBSCRIPTION_STATES } from '../../../server/subscriptions/states.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';

// Loaded when a plan is first chosen: it computes.
const ChosenPlan = lazy(() => import('./ChosenPlan.tsx'));

const STATES = ['can be sold', 'cannot be sold', 'archived'];

/** Other prices than the first, at the end of what a plan costs. */
const MORE = /, (and \d+ more)$/;

const COLUMNS: readonly Column<PlanRow>[] = [
  { heading: 'Plan', sort: 'name', width: '19%', cell: ({ name }) => name },
  {
    heading: 'Price',
    cell: ({ price }) => <span title={price}>{price.replace(MORE, '')}</span>,
    under: ({ price }) => MORE.exec(price)?.[1],
  },
  { heading: 'A month', sort: 'monthly', width: '112px', right: true, cell: (row) => <Monthly row={row} /> },
  {
    heading: 'Subscribers',
    sort: 'subscribers',
    width: '150px',
    right: true,
    cell: ({ subscribers }) => subscribers,
    under: ({ states }) => <span title={sayStates(states)}>{sayStates(states)}</span>,
  },
  {
    heading: 'Sold now',
    width: '150px',
    cell: ({ notSold }) => (
      <Box as="span" color={notSold === null ? undefined : 'declined'}>
        {notSold === null ? 'yes' : 'no'}
      </Box>
    ),
    under: ({ notSold }) => notSold !== null && <span title={notSold}>{notSold}</span>,
  },
];

/** What a plan brings a month: the first currency, and the others on a second look. */
function Monthly({ row }: { readonly row: PlanRow }) {
  const said = row.monthly.map(({ currency, amount }) => sayAmount(BigInt(amount), currency));
  return (
    <span title={said.join(', ')}>
      {said[0]}
      {said.length > 1 && (
        <Box as="span" color="muted">
          {' '}
          +{said.length - 1}
        </Box>
      )}
    </span>
  );
}

/** How many are in each state, those that run: '2 trial, 31 active'. */
function sayStates(states: PlanRow['states']): string {
  return SUBSCRIPTION_STATES.filter((state) => state !== 'ended' && (states[state] ?? 0) > 0)
    .map((state) => `${states[state]} ${state}`)
    .join(', ');
}

/** What is offered, what it brings a month, and whether it can be sold; in the margin what one of them comes to. */
export function PlansPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('plan');
  return (
    <PageAndMargin
      title="Plans"
      action={
        <ForWriters>
          <Flex gap="2">
            <Button asChild size="sm" variant="outline">
              <Link to="/plans/file">As a file</Link>
            </Button>
            <Button asChild size="sm" colorPalette="kelp">
              <Link to="/plans/new">Make a plan</Link>
            </Button>
          </Flex>
        </ForWriters>
      }
      marginLabel="The chosen plan"
      margin={chosen !== null && <ChosenPlan id={chosen} />}
    >
      <Text color="muted" mb="3">
        A plan says what is offered; its rates say what it costs, and how often.
      </Text>
      <ListPage<PlanRow>
        path="/api/plan-list"
        label="plans"
        columns={COLUMNS}
        states={STATES}
        kinds={PLAN_KINDS}
        empty={<Text>There is no plan yet. Make one to say what you offer and what it costs.</Text>}
        chosen={chosen}
        onChoose={({ id }) =>
          setParams(
            (now) => {
              const next = new URLSearchParams(now);
              next.set('plan', id);
              return next;
            },
            { replace: true },
          )
        }
      />
    </PageAndMargin>
  );
}
