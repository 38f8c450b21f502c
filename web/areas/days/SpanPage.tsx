import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import { useNavigate, useParams } from 'react-router';
import { formatDay, parseDay, toDay } from '../../../core/dates/day.ts';
import { firstOfMonth, monthOf } from '../../../core/dates/month.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { Span, SpanSum } from '../../../server/run/messages.ts';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { sayCount } from '../../parts/sayCount.ts';

const PARTS = [
  ['collected', 'Came in', 'collected'],
  ['planned', 'Planned', 'planned'],
  ['declined', 'Failed', 'declined'],
] as const;

/** What some days come to: chosen on the rail with the shift key, or here. */
export function SpanPage() {
  const { businessDate } = useFrame();
  const { from = businessDate, until = businessDate } = useParams();
  return parseDay(from) === null || parseDay(until) === null ? (
    <PageAndMargin title="No such days">Days are written as {businessDate}.</PageAndMargin>
  ) : (
    <SumsOfDays from={from} until={until} />
  );
}

function SumsOfDays({ from, until }: { readonly from: string; readonly until: string }) {
  const { businessDate } = useFrame();
  const navigate = useNavigate();
  const { data: span, error } = useAnswer<Span>(withQuery('/api/span', { from, until, day: businessDate }));
  const go = (first: string, last: string) =>
    void navigate(first <= last ? `/days/${first}/to/${last}` : `/days/${last}/to/${first}`);
  const title = `${sayDate(from)} to ${sayDate(until)}`;
  if (!span && !error) return <PageLoading title={title} />;
  return (
    <PageAndMargin title={title}>
      <Flex gap="3" mb="5" wrap="wrap" align="center">
        <Flex gap="2" w="330px">
          {(['from', 'until'] as const).map((end) => (
            <DateField
              key={end}
              isBare
              label={end === 'from' ? 'First day' : 'Last day'}
              value={end === 'from' ? from : until}
              onChange={({ target: { value } }) => {
                if (parseDay(value) === null) return;
                go(end === 'from' ? value : from, end === 'from' ? until : value);
              }}
            />
          ))}
        </Flex>
        {MONTHS.map(([name, months]) => {
          const [first, last] = daysOfMonth(businessDate, months);
          const isShown = first === from && last === until;
          return (
            <Button
              key={name}
              size="xs"
              variant={isShown ? 'solid' : 'outline'}
              aria-pressed={isShown}
              onClick={() => go(first, last)}
            >
              {name}
            </Button>
          );
        })}
      </Flex>
      {error && <Text color="declined">{error.faults[0]?.detail ?? error.message}</Text>}
      {span && !error && <Sums span={span} />}
      {span && !error && span.foreseenUntil !== null && until > businessDate && (
        <Text color="muted" mt="3">
          What is planned is foreseen until {sayDate(span.foreseenUntil)}: later days are not in these sums.
        </Text>
      )}
    </PageAndMargin>
  );
}

function Sums({ span }: { readonly span: Span }) {
  if (span.currencies.length === 0)
    return <Text color="muted">Nothing came in, failed or is planned on these days.</Text>;
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md">
      <Table.Root size="sm" css={{ '& td, & th': { bg: 'page', borderColor: 'lines' } }}>
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader>Currency</Table.ColumnHeader>
            {PARTS.map(([part, name]) => (
              <Table.ColumnHeader key={part} textAlign="end">
                {name}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {span.currencies.map((sums) => (
            <Table.Row key={sums.currency}>
              <Table.Cell>{sums.currency}</Table.Cell>
              {PARTS.map(([part, , colour]) => (
                <Table.Cell key={part} textAlign="end" color={colour}>
                  <SumOf sum={sums[part]} currency={sums.currency} />
                </Table.Cell>
              ))}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

function SumOf({ sum, currency }: { readonly sum: SpanSum; readonly currency: string }) {
  if (sum.payments === 0) return <Box color="muted">nothing</Box>;
  return (
    <>
      <Box as="span" fontFamily="heading" fontSize="17px">
        {sayAmount(BigInt(sum.amount), currency)}
      </Box>
      <Box as="span" color="muted">
        {' '}
        in {sayCount(sum.payments)}
      </Box>
    </>
  );
}

const MONTHS = [
  ['Last month', -1],
  ['This month', 0],
  ['Next month', 1],
] as const;

/** The first and the last day of the month so many months from that of a day. */
function daysOfMonth(date: string, months: number): [first: string, last: string] {
  const month = monthOf(toDay(date)) + months;
  return [formatDay(firstOfMonth(month)), formatDay(firstOfMonth(month + 1) - 1)];
}
