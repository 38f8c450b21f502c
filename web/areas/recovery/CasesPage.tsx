import { Box, Link as TextLink, Text } from '@chakra-ui/react';
import { Link, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { Page } from '../../../server/http/list.ts';
import type { CaseRow } from '../../../server/recovery/messages.ts';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage } from '../../parts/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';

/** The recovery cases, open ones by default; the margin shows how far the chosen one has climbed. */
export function CasesPage() {
  const [params, setParams] = useSearchParams();
  const query = {
    search: params.get('search') ?? '',
    state: params.get('state') ?? '',
    sort: params.get('sort') ?? '',
    page: params.get('page') ?? '',
  };
  const { data } = useAnswer<Page<CaseRow>>(withQuery('/api/cases', query));
  const chosen = data?.rows.find(({ id }) => id === params.get('case')) ?? data?.rows[0];
  const choose = (row: CaseRow) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('case', row.id);
        return next;
      },
      { replace: true },
    );
  return (
    <PageAndMargin
      title="Recovery cases"
      marginLabel="The chosen case"
      margin={
        chosen ? (
          <Chosen row={chosen} />
        ) : (
          <Text color="muted">A failed payment opens a case here by itself.</Text>
        )
      }
    >
      <ListPage<CaseRow>
        path="/api/cases"
        label="cases"
        states={['open', 'recovered', 'given up']}
        chosen={chosen?.id ?? null}
        onChoose={choose}
        empty={<Text>No payment has failed. When one does, its case opens here by itself.</Text>}
        columns={[
          { heading: 'Customer', sort: 'customer', width: '22%', cell: (row) => row.customer },
          { heading: 'Plan', width: '14%', cell: (row) => row.plan },
          { heading: 'State', width: '12%', cell: (row) => <StateMark state={row.state} /> },
          { heading: 'Opened', sort: 'opened', width: '118px', cell: (row) => sayDayMonthYear(row.openedOn) },
          { heading: 'Why', cell: (row) => row.why },
          {
            heading: 'Owed',
            sort: 'owed',
            width: '104px',
            right: true,
            cell: (row) => (row.owed === '0' ? '' : sayAmount(BigInt(row.owed), row.currency)),
          },
        ]}
      />
    </PageAndMargin>
  );
}

function Chosen({ row }: { readonly row: CaseRow }) {
  return (
    <>
      <MarginHeading>{row.customer}</MarginHeading>
      <Text>
        Declined: {row.why}. {row.owed === '0' ? '' : `${sayAmount(BigInt(row.owed), row.currency)} is open.`}
      </Text>
      <Text mt="1">{row.says}</Text>
      <MarginHeading>The ladder</MarginHeading>
      <Text color="muted" mb="2">
        {row.ladder}
      </Text>
      <Box as="ol" listStyleType="none">
        {row.steps.map((step, i) => (
          <Box
            as="li"
            key={i}
            display="grid"
            gridTemplateColumns="20px 1fr"
            gap="2"
            py="1.5"
            borderTopWidth="1px"
            borderColor="lines"
            color={step.state === 'cancelled' ? 'muted' : 'ink'}
          >
            <Box aria-hidden color={step.state === 'done' ? 'collected' : 'planned'}>
              {step.state === 'done' ? '■' : step.state === 'to come' ? '□' : '–'}
            </Box>
            <Box>
              <Text textDecoration={step.state === 'cancelled' ? 'line-through' : undefined}>
                {sayDate(step.date)}
              </Text>
              <Text color="muted">
                {step.says}
                {step.state === 'cancelled' ? ' (not needed)' : ''}
              </Text>
            </Box>
          </Box>
        ))}
      </Box>
      <Box mt="4">
        <TextLink asChild color="kelp.fg" fontWeight="600">
          <Link to={`/subscriptions/${row.subscriptionId}`}>Open the subscription</Link>
        </TextLink>
      </Box>
    </>
  );
}
