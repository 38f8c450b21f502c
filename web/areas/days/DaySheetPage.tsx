import { Box, Button, Grid, Heading, Link as TextLink, Table, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import { useSWRConfig } from 'swr';
import { parseDay } from '../../../core/dates/day.ts';
import { DAYS_AHEAD } from '../../../core/forecast/daysAhead.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { DaySheet, SHEET_PARTS, SheetMovement, SheetPart } from '../../../server/run/messages.ts';
import { post, Problem, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { sayCount } from '../../parts/sayCount.ts';
import { MoneyOfDay } from './MoneyOfDay.tsx';
import { useMoreRows } from './useMoreRows.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Hindered } from '../../parts/Hindered.tsx';
import { ForWriters } from '../../frame/ForWriters.tsx';

/** One business day: what needs a person first, then what failed, what came in, and what comes next. */
export function DaySheetPage() {
  const { businessDate } = useFrame();
  const date = useParams().date ?? businessDate;
  return parseDay(date) === null ? (
    <PageAndMargin title={`No sheet for ${date}`}>Days are written as {businessDate}.</PageAndMargin>
  ) : (
    <SheetOf date={date} />
  );
}

function SheetOf({ date }: { readonly date: string }) {
  const { businessDate } = useFrame();
  const { data: sheet, error } = useAnswer<DaySheet>(withQuery(`/api/days/${date}`, { day: businessDate }), {
    // While what is to come is reckoned anew, it is looked at again.
    refreshMs: (latest) => (latest?.foreseeing ? 2_000 : 0),
  });
  if (error) return <PageAndMargin title={`No sheet for ${date}`}>{error.message}</PageAndMargin>;
  if (!sheet || sheet.date !== date) return <PageLoading title={sayDate(date)} />;
  const isPast = date < businessDate;
  return (
    <PageAndMargin
      title={sayDate(date)}
      action={
        <Button size="sm" variant="outline" _print={{ display: 'none' }} onClick={() => window.print()}>
          Print
        </Button>
      }
      margin={<Coming sheet={sheet} isPast={isPast} />}
      marginLabel="What comes next"
    >
      <Text color="muted" mt="-3" mb="4">
        {sheet.isBusinessDay
          ? 'The business day: its page has not been turned.'
          : isPast
            ? 'A page that was turned.'
            : sheet.isForeseen
              ? 'A page to come.'
              : `A page to come. With so many subscriptions charges are foreseen for ${DAYS_AHEAD} days, and not for this one yet.`}
      </Text>
      {sheet.foreseeing && (
        <Text role="status" mt="-2" mb="4">
          What is to come is being reckoned anew: {sayCount(sheet.foreseeing.done)} of{' '}
          {sayCount(sheet.foreseeing.of)} subscriptions.
        </Text>
      )}
      <MoneyOfDay sheet={sheet} isPast={isPast} />
      {sheet.needs.length > 0 && <Needs needs={byUrgency(sheet.needs)} isPast={isPast} />}
      {sheet.failed.total > 0 && (
        <Section title="Failed" sheet={sheet} name="failed">
          {(row, i) => (
            <Row key={`${row.invoice}${i}`} row={row} colour="declined">
              {row.says} {row.next}
            </Row>
          )}
        </Section>
      )}
      {(isPast || sheet.collected.total > 0) && (
        <Section title="Came in" sheet={sheet} name="collected">
          {(row, i) => (
            <Row key={`${row.invoice}${i}`} row={row} colour="collected">
              {row.plan}
            </Row>
          )}
        </Section>
      )}
      {!isPast && sheet.isForeseen && (
        <Section title={sheet.isBusinessDay ? 'Planned for today' : 'Planned'} sheet={sheet} name="planned">
          {(row, i) => (
            <Row key={`${row.subscriptionId}${i}`} row={row} colour="planned">
              {row.plan}
              {row.payments > 1 && `, ${row.payments} payments`}
              <Hindered says={row.cannotCharge} />
            </Row>
          )}
        </Section>
      )}
      {sheet.happened.total > 0 && (
        <Section title="Also that day" sheet={sheet} name="happened">
          {(row, i) => (
            <Table.Row key={i} h="32px">
              <Table.Cell w="30%">
                <SubscriptionLink id={row.subscriptionId}>{row.customer}</SubscriptionLink>
              </Table.Cell>
              <Table.Cell>{row.plan}</Table.Cell>
              <Table.Cell colSpan={2}>{row.says}</Table.Cell>
            </Table.Row>
          )}
        </Section>
      )}
    </PageAndMargin>
  );
}

/** Money first, then people, then the rest. */
const OF_MONEY = [
  'refund failed',
  'charge refused',
  'charge does not match',
  'card to be replaced',
  'lapsed',
];
const OF_PEOPLE = ['customer wrote', 'letter undeliverable'];

function byUrgency(needs: DaySheet['needs']): DaySheet['needs'] {
  const rank = (kind: string) => (OF_MONEY.includes(kind) ? 0 : OF_PEOPLE.includes(kind) ? 1 : 2);
  return [...needs].sort((a, b) => rank(a.kind) - rank(b.kind));
}

function Needs({ needs, isPast }: { readonly needs: DaySheet['needs']; readonly isPast: boolean }) {
  const { mutate } = useSWRConfig();
  const seen = async (id: string) => {
    await post(`/api/needs/${id}/seen`).catch((error: unknown) => {
      if (!(error instanceof Problem && error.status === 404)) throw error; // somebody else was quicker
    });
    await mutate((key) => typeof key === 'string' && key.startsWith('/api/days'));
  };
  return (
    <Box
      as="section"
      mb="6"
      bg="page"
      borderWidth="1px"
      borderColor="lines"
      borderLeftWidth="3px"
      borderLeftColor="trial"
      borderRadius="md"
      px="4"
      py="3"
    >
      <Heading as="h2" size="md" fontWeight="500" mb="1">
        {isPast ? 'What came up that day' : 'Needs a person'}
      </Heading>
      {needs.map((need) => (
        <Grid
          key={need.id}
          templateColumns="150px minmax(0, 1fr) auto auto"
          gap="4"
          py="1.5"
          borderTopWidth="1px"
          borderColor="lines"
          alignItems="baseline"
        >
          <Box overflowWrap="anywhere">{need.customer ?? 'The business'}</Box>
          <Box overflowWrap="anywhere" lineClamp={3} title={need.says}>
            {need.says}{' '}
            <Box as="span" color="muted" whiteSpace="nowrap">
              {sayDate(need.arose)}
            </Box>
          </Box>
          <TextLink asChild color="kelp.fg" fontWeight="600">
            {need.kind === 'customer wrote' && need.customerId ? (
              <Link to={`/customers/${need.customerId}#messages`}>{isPast ? 'Read it' : 'Answer'}</Link>
            ) : need.kind === 'refund failed' && need.customerId ? (
              <Link to={`/customers/${need.customerId}/credit`}>{ACTIONS[need.kind]}</Link>
            ) : need.subscriptionId ? (
              <Link to={`/subscriptions/${need.subscriptionId}`}>{ACTIONS[need.kind] ?? 'Look at it'}</Link>
            ) : need.customerId ? (
              <Link to={`/customers/${need.customerId}`}>Look at it</Link>
            ) : (
              <Link to="/setup/gateways">Open Gateways</Link>
            )}
          </TextLink>
          {need.settledOn !== null ? (
            <Text color="muted" fontSize="13px">
              seen to {sayDate(need.settledOn)}
            </Text>
          ) : (
            <ForWriters>
              <Button
                size="2xs"
                variant="outline"
                aria-label={`Seen to: ${need.customer ?? 'the business'}`}
                onClick={() => seen(need.id)}
              >
                Seen to
              </Button>
            </ForWriters>
          )}
        </Grid>
      ))}
    </Box>
  );
}

const ACTIONS: Readonly<Record<string, string>> = {
  'card to be replaced': 'Take another card',
  'letter undeliverable': 'Find the address',
  lapsed: 'See what is open',
  'refund failed': 'Pay it out',
  'charge refused': 'Look at the charge',
  'charge does not match': 'Look at the charge',
};

type PartName = (typeof SHEET_PARTS)[number];

/** One part of the sheet: its first rows, and the others page by page as they are asked for. */
function Section<Name extends PartName>(props: {
  readonly title: string;
  readonly sheet: DaySheet;
  readonly name: Name;
  readonly children: (row: DaySheet[Name]['rows'][number], i: number) => ReactNode;
}) {
  const { title, sheet, name, children } = props;
  const part = sheet[name] as SheetPart<DaySheet[Name]['rows'][number]>;
  const { rows, more, isLoading } = useMoreRows(sheet.date, name, part);
  return (
    <Box as="section" mb="6">
      <Box display="flex" alignItems="baseline" mb="1" gap="3">
        <Heading as="h2" size="md" fontWeight="500">
          {title}
        </Heading>
        <Text color="muted">{part.total === 0 ? 'nothing' : sayCount(part.total)}</Text>
        <Text ml="auto" fontFamily="heading">
          {saySums(part)}
        </Text>
      </Box>
      {rows.length > 0 && (
        <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md">
          <Table.Root
            size="sm"
            tableLayout="fixed"
            css={{ '& td': { bg: 'page', borderColor: 'lines', py: 0 } }}
          >
            <Table.Body>{rows.map(children)}</Table.Body>
          </Table.Root>
        </Box>
      )}
      {more && (
        <Button size="xs" variant="outline" mt="2" loading={isLoading} onClick={more}>
          Show more: {sayCount(rows.length)} of {sayCount(part.total)}
        </Button>
      )}
    </Box>
  );
}

function Row({ row, colour, children }: { row: SheetMovement; colour: string; children: ReactNode }) {
  return (
    <Table.Row h="32px">
      <Table.Cell w="26%" truncate>
        <SubscriptionLink id={row.subscriptionId}>{row.customer}</SubscriptionLink>
      </Table.Cell>
      <Table.Cell>{children}</Table.Cell>
      <Table.Cell w="92px" color="muted">
        {row.invoice === '' ? '' : `no. ${row.invoice}`}
      </Table.Cell>
      <Table.Cell w="110px" textAlign="end" color={colour} fontWeight="550">
        {sayAmount(BigInt(row.amount), row.currency)}
      </Table.Cell>
    </Table.Row>
  );
}

function SubscriptionLink({ id, children }: { id: string; children: ReactNode }) {
  return (
    <TextLink asChild color="ink">
      <Link to={`/subscriptions/${id}`}>{children}</Link>
    </TextLink>
  );
}

function Coming({ sheet, isPast }: { readonly sheet: DaySheet; readonly isPast: boolean }) {
  const { tomorrow } = sheet;
  if (isPast) {
    return (
      <>
        <MarginHeading>That day</MarginHeading>
        <Text>
          {sayCount(sheet.collected.total)} collected, {sayCount(sheet.failed.total)} declined.
        </Text>
        <Text mt="2">{saySums(sheet.collected)}</Text>
      </>
    );
  }
  if (!sheet.isForeseen) return null;
  const others = tomorrow.more ? tomorrow.total - tomorrow.rows.length : 0;
  return (
    <>
      <MarginHeading>{sheet.isBusinessDay ? 'Tomorrow' : 'The day after'}</MarginHeading>
      <Text color="muted" mb="2">
        {sayDate(sheet.tomorrow.date)}
      </Text>
      {tomorrow.total === 0 && <Text>Nothing is planned.</Text>}
      {tomorrow.rows.map((payment, i) => (
        <Box key={i} display="flex" gap="2" py="1" borderTopWidth="1px" borderColor="lines">
          <Box flex="1" truncate>
            {payment.customer}
          </Box>
          <Box whiteSpace="nowrap">{sayAmount(BigInt(payment.amount), payment.currency)}</Box>
        </Box>
      ))}
      {others > 0 && (
        <TextLink asChild color="kelp.fg" py="1">
          <Link to={`/days/${tomorrow.date}`}>and {sayCount(others)} more</Link>
        </TextLink>
      )}
      {tomorrow.total > 0 && (
        <Text textAlign="end" borderTopWidth="2px" borderColor="ink" pt="1" fontFamily="heading">
          {saySums(tomorrow)}
        </Text>
      )}
    </>
  );
}

/** What a part comes to, one sum for each currency: '£120.00, €14.00'. */
function saySums({ sums }: Pick<SheetPart<unknown>, 'sums'>): string {
  return sums.map(({ currency, amount }) => sayAmount(BigInt(amount), currency)).join(', ');
}
