import { Box, Flex, Link as TextLink, Table, Text } from '@chakra-ui/react';
import { Fragment } from 'react';
import { Link } from 'react-router';
import { sayAmount, sayFigure } from '../../../core/words/amount.ts';
import { sayDate, sayDayAndMonth } from '../../../core/words/date.ts';
import { MEANS_NAMES, type MeansByHand } from '../../../server/payments/meansKinds.ts';
import type { DaySheet, MoneySum, MovedMoney } from '../../../server/run/messages.ts';
import { withQuery } from '../../api/client.ts';
import { sayCount } from '../../parts/sayCount.ts';

/** What each way to pay is called here. */
const sayMethod = (method: string) => {
  const named = MEANS_NAMES[method as MeansByHand] ?? method;
  return named.charAt(0).toUpperCase() + named.slice(1);
};

/** What the day comes to, before anything else: planned against done, by currency and method, each sum a way to its rows. */
export function MoneyOfDay({ sheet, isPast }: { readonly sheet: DaySheet; readonly isPast: boolean }) {
  const { date, money, planned, isForeseen } = sheet;
  const plans = !isPast && isForeseen;
  const currencies = [
    ...new Set([
      ...money.currencies.map(({ currency }) => currency),
      ...(plans ? planned.sums.map(({ currency }) => currency) : []),
    ]),
  ].sort();
  const day = { from: date, until: date };
  const ways = {
    due: withQuery('/invoices', { dated: 'due', ...day }),
    done: withQuery('/payments', { state: 'collected', dated: 'made', ...day }),
    failed: withQuery('/payments', { state: 'declined', dated: 'made', ...day }),
    back: '/payments?state=refunded',
  };
  if (currencies.length === 0)
    return (
      <Text mb="5" color="muted">
        {isPast ? 'No money moved that day.' : 'Nothing is planned, and nothing came in yet.'}
      </Text>
    );
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" mb="5">
      <Table.Root
        size="sm"
        aria-label="The money of the day"
        css={{ '& td, & th': { bg: 'page', borderColor: 'lines', py: '4px' } }}
      >
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader color="muted">Money</Table.ColumnHeader>
            {[
              'Fell due',
              ...(plans ? ['Planned'] : []),
              'Came in',
              'Failed',
              'Went back',
              `Came in ${sayDayAndMonth(money.monthBefore)}`,
            ].map((heading) => (
              <Table.ColumnHeader key={heading} color="muted" textAlign="end">
                {heading}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {currencies.map((currency) => {
            const own = money.currencies.find((one) => one.currency === currency);
            const still = planned.sums.find((one) => one.currency === currency)?.amount ?? '0';
            const methods = (own?.methods ?? []).filter(({ done, due, back, failed }) =>
              [done, due, back, failed].some(({ payments }) => payments > 0),
            );
            return (
              <Fragment key={currency}>
                <Table.Row fontWeight="550">
                  <Table.Cell>{currency}</Table.Cell>
                  <Sum of={own?.due} currency={currency} to={ways.due} />
                  {plans && (
                    <Table.Cell textAlign="end" color="planned">
                      {still === '0' ? '' : sayFigure(BigInt(still), currency)}
                    </Table.Cell>
                  )}
                  <Sum of={own?.done} currency={currency} to={ways.done} colour="collected" />
                  <Sum of={own?.failed} currency={currency} to={ways.failed} colour="declined" />
                  <Sum of={own?.back} currency={currency} to={ways.back} colour="paused" />
                  <Sum
                    of={own?.before}
                    currency={currency}
                    to={`/days/${money.monthBefore}`}
                    colour="muted"
                  />
                </Table.Row>
                {methods.length > 1 &&
                  methods.map((method) => (
                    <ByMethod key={method.method} {...{ method, currency, plans }} name={method.method} />
                  ))}
              </Fragment>
            );
          })}
        </Table.Body>
      </Table.Root>
      {sheet.withBanks.length > 0 && (
        <Flex columnGap="5" px="3" py="2" wrap="wrap">
          {sheet.withBanks.map(({ expectedOn, waitsFor, currency, amount, debits }) => (
            <Text key={`${expectedOn}${waitsFor}${currency}`} color="muted">
              {waitsFor ? 'Cardholders are to confirm' : 'With the banks'}{' '}
              {sayAmount(BigInt(amount), currency)} in {sayCount(debits)},{' '}
              {waitsFor ? 'or it is declined' : 'answered'} on {sayDate(expectedOn)}
            </Text>
          ))}
        </Flex>
      )}
    </Box>
  );
}

function ByMethod(props: {
  readonly name: string;
  readonly method: MovedMoney;
  readonly currency: string;
  readonly plans: boolean;
}) {
  const { name, method, currency, plans } = props;
  return (
    <Table.Row color="muted" fontSize="13px">
      <Table.Cell ps="6">{sayMethod(name)}</Table.Cell>
      <Sum of={method.due} currency={currency} />
      {plans && <Table.Cell />}
      <Sum of={method.done} currency={currency} />
      <Sum of={method.failed} currency={currency} />
      <Sum of={method.back} currency={currency} />
      <Table.Cell />
    </Table.Row>
  );
}

/** A sum and how many payments it is of; nothing where there are none. */
function Sum(props: {
  readonly of: MoneySum | undefined;
  readonly currency: string;
  readonly to?: string;
  readonly colour?: string;
}) {
  const { of, currency, to, colour } = props;
  if (!of || of.payments === 0) return <Table.Cell />;
  const figure = sayFigure(BigInt(of.amount), currency);
  return (
    <Table.Cell textAlign="end" color={colour} whiteSpace="nowrap">
      {to ? (
        <TextLink asChild color="inherit">
          <Link to={to}>{figure}</Link>
        </TextLink>
      ) : (
        figure
      )}
      <Box as="span" color="muted" fontWeight="400" fontSize="12px">
        {' '}
        in {sayCount(of.payments)}
      </Box>
    </Table.Cell>
  );
}
