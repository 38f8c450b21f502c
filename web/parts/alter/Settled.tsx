import { Box, Text } from '@chakra-ui/react';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { AlterationEffect } from '../../../server/subscriptions/alterMessages.ts';

/** How a change is settled, line by line, and what is left as credit at the end. */
export function Settled({ effect }: { readonly effect: AlterationEffect }) {
  const { settlement, creditLeft, currency } = effect;
  return (
    <>
      {settlement && (
        <Box
          as="table"
          w="full"
          fontSize="13px"
          mb="3"
          aria-label="How it is settled"
          css={{ '& td': { py: '1px', verticalAlign: 'top' } }}
        >
          <caption>
            <Text as="span" display="block" textAlign="start" color="muted" fontWeight="500">
              {settlement.carried
                ? `Settled in the payment of ${sayDate(settlement.dueOn)}`
                : `Settled on ${sayDate(settlement.dueOn)}`}
            </Text>
          </caption>
          <tbody>
            {settlement.lines.map((line, i) => (
              <tr key={i}>
                <td>{line.says}</td>
                <Amount amount={line.amount} currency={currency} />
              </tr>
            ))}
            <tr>
              <Box as="td" fontWeight="600">
                {total(settlement.total, settlement.carried)}
              </Box>
              <Amount amount={settlement.total} currency={currency} isTotal />
            </tr>
          </tbody>
        </Box>
      )}
      <TakenBack effect={effect} />
      {creditLeft !== '0' && (
        <Text mb="3">
          {sayAmount(BigInt(creditLeft), currency)} is not used up by then and goes to the customer’s credit.
        </Text>
      )}
    </>
  );
}

/** What becomes of invoices that were issued before their period begins. */
export function TakenBack({ effect }: { readonly effect: AlterationEffect }) {
  const { takenBack, issuesAnew, currency } = effect;
  const say = (amount: string) => sayAmount(BigInt(amount), currency);
  const first = issuesAnew ? ', which the new one uses first' : '';
  return takenBack.map(({ number, total: of, toCredit }) => (
    <Text key={number} mb="3">
      Invoice {number} of {say(of)} was issued before its period begins: a credit note takes it back
      {issuesAnew ? ', and a new one is issued' : ''}.
      {toCredit === '0' ? '' : ` ${say(toCredit)} was paid of it and becomes credit${first}.`}
    </Text>
  ));
}

function total(amount: string, carried: boolean): string {
  if (carried) return 'Together, without tax';
  return BigInt(amount) < 0n ? 'Credit, used up by what comes next' : 'Together, with its tax';
}

function Amount(props: { readonly amount: string; readonly currency: string; readonly isTotal?: boolean }) {
  return (
    <Box
      as="td"
      textAlign="end"
      whiteSpace="nowrap"
      ps="3"
      fontVariantNumeric="tabular-nums"
      fontWeight={props.isTotal ? '600' : undefined}
      borderTopWidth={props.isTotal ? '1px' : undefined}
      borderColor="lines"
    >
      {sayAmount(BigInt(props.amount), props.currency)}
    </Box>
  );
}
