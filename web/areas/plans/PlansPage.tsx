import { Box, Button, Flex, Input, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { PlanView } from '../../../server/plans/messages.ts';
import { withQuery } from '../../api/client.ts';
import { useLaw } from '../../api/useLaw.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { ForWriters } from '../../frame/ForWriters.tsx';

/** What is offered: plans with their rates, and in the margin what one of them comes to. */
export function PlansPage() {
  const { businessDate } = useFrame();
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useState('');
  const { data: plans } = useAnswer<PlanView[]>(withQuery('/api/plans', { search }));
  const chosen = plans?.find(({ id }) => id === params.get('plan')) ?? plans?.[0];
  const rate = chosen?.rates.find(({ id }) => id === params.get('rate')) ?? chosen?.rates[0];
  const compile = useLaw(rate?.taxId);
  return (
    <PageAndMargin
      title="Plans"
      action={
        <ForWriters>
          <Button asChild size="sm" colorPalette="kelp">
            <Link to="/plans/new">Make a plan</Link>
          </Button>
        </ForWriters>
      }
      margin={
        chosen && rate ? (
          <>
            <MarginHeading>{chosen.name}</MarginHeading>
            <Text color="muted" mb="3">
              {chosen.description}
            </Text>
            <Text fontWeight="600">{rate.name}</Text>
            <Text mb="3">{rate.says}</Text>
            <TermsPreview
              key={rate.id}
              terms={sampleTerms(rate.terms, businessDate)}
              today={businessDate}
              compile={compile}
            />
          </>
        ) : (
          <Text color="muted">A plan says what is offered; its rates say what it costs, and how often.</Text>
        )
      }
    >
      <Flex mb="3">
        <Input
          size="sm"
          maxW="260px"
          placeholder="Search"
          aria-label="Search plans"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <Text ml="auto" color="muted">
          {plans ? `${plans.length} plans` : ''}
        </Text>
      </Flex>
      {plans?.length === 0 && (
        <Text py="6">
          {search
            ? 'Nothing matches.'
            : 'There is no plan yet. Make one to say what you offer and what it costs.'}
        </Text>
      )}
      {plans?.map((plan) => (
        <Box key={plan.id} mb="4" bg="page" borderWidth="1px" borderColor="lines" borderRadius="md">
          <Flex px="3" py="2" align="baseline" gap="3">
            <Text fontFamily="heading" fontSize="16px">
              {plan.name}
            </Text>
            <Text color="muted" ml="auto">
              {plan.subscribers} subscribers
            </Text>
          </Flex>
          <Table.Root size="sm" tableLayout="fixed" aria-label={`Rates of ${plan.name}`}>
            <Table.Body>
              {plan.rates.map((one) => (
                <Table.Row
                  key={one.id}
                  h="36px"
                  tabIndex={0}
                  cursor="pointer"
                  bg={one.id === rate?.id ? 'kelp.subtle' : 'page'}
                  _hover={{ bg: 'kelp.subtle' }}
                  aria-selected={one.id === rate?.id}
                  onClick={() => setParams({ plan: plan.id, rate: one.id }, { replace: true })}
                  onKeyDown={(event) =>
                    event.key === 'Enter' && setParams({ plan: plan.id, rate: one.id }, { replace: true })
                  }
                >
                  <Table.Cell w="34%" py="0" borderColor="lines">
                    {one.name}
                  </Table.Cell>
                  <Table.Cell py="0" borderColor="lines" truncate>
                    {one.says}
                  </Table.Cell>
                  <Table.Cell w="60px" py="0" borderColor="lines" textAlign="end" color="muted">
                    {one.subscribers}
                  </Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
        </Box>
      ))}
    </PageAndMargin>
  );
}

/** A rate's terms for a sample customer who starts on the business day. */
function sampleTerms(terms: Record<string, unknown>, starts: string): Record<string, unknown> {
  const once = Array.isArray(terms.once)
    ? { once: (terms.once as object[]).map((entry) => ({ date: starts, ...entry })) }
    : {};
  return { ...terms, ...once, starts };
}
