import { Box, Link as TextLink, Text } from '@chakra-ui/react';
import { Link, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { CaseRow } from '../../../server/recovery/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Loading } from '../../frame/PageLoading.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';

/** The recovery cases, open ones by default; the margin shows how far the chosen one has climbed. */
export function CasesPage() {
  const [params, setParams] = useSearchParams();
  const wanted = params.get('case');
  const { data } = useAnswer<CaseRow>(wanted === null ? null : `/api/cases/${wanted}`);
  const chosen = wanted !== null && data?.id === wanted ? data : null;
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
      margin={wanted !== null && (chosen ? <Chosen row={chosen} /> : <Loading shape="margin" />)}
    >
      <ListPage<CaseRow>
        path="/api/cases"
        label="cases"
        states={['open', 'recovered', 'given up']}
        chosen={wanted}
        onChoose={choose}
        empty={<Text>No payment has failed. When one does, its case opens here by itself.</Text>}
        columns={[
          {
            heading: 'Customer',
            sort: 'customer',
            width: '23%',
            cell: (row) => row.customer,
            under: (row) => row.plan,
          },
          {
            heading: 'State, opened',
            sort: 'opened',
            width: '132px',
            cell: (row) => <StateMark state={row.state} />,
            under: (row) => sayDayMonthYear(row.openedOn),
          },
          { heading: 'Why', cell: (row) => row.why, under: (row) => row.says },
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
