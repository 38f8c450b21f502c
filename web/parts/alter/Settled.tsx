import { Box, Text } from '@chakra-ui/react';
import type { AlterWords } from '../../../core/words/ownPage/words.ts';
import type { AlterationEffect } from '../../../server/subscriptions/alterMessages.ts';
import { useAlterSaying } from './alterSaying.ts';

/** How a change is settled, line by line, and what is left as credit at the end. */
export function Settled({ effect }: { readonly effect: AlterationEffect }) {
  const { settlement, creditLeft, currency } = effect;
  const { words, amount, date } = useAlterSaying();
  return (
    <>
      {settlement && (
        <Box
          as="table"
          w="full"
          fontSize="13px"
          mb="3"
          aria-label={words.howSettled}
          css={{ '& td': { py: '1px', verticalAlign: 'top' } }}
        >
          <caption>
            <Text as="span" display="block" textAlign="start" color="muted" fontWeight="500">
              {(settlement.carried ? words.settledIn : words.settledOn)(date(settlement.dueOn))}
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
                {total(settlement.total, settlement.carried, words)}
              </Box>
              <Amount amount={settlement.total} currency={currency} isTotal />
            </tr>
          </tbody>
        </Box>
      )}
      <TakenBack effect={effect} />
      {creditLeft !== '0' && <Text mb="3">{words.creditLeft(amount(creditLeft, currency))}</Text>}
    </>
  );
}

/** What becomes of invoices that were issued before their period begins. */
export function TakenBack({ effect }: { readonly effect: AlterationEffect }) {
  const { takenBack, issuesAnew, currency } = effect;
  const { words, amount } = useAlterSaying();
  return takenBack.map(({ number, total: of, toCredit }) => (
    <Text key={number} mb="3">
      {words.takenBack({
        ...{ number, amount: amount(of, currency), anew: issuesAnew },
        credit: toCredit === '0' ? null : amount(toCredit, currency),
      })}
    </Text>
  ));
}

function total(amount: string, carried: boolean, { together }: AlterWords): string {
  if (carried) return together.carried;
  return BigInt(amount) < 0n ? together.credit : together.withTax;
}

function Amount(props: { readonly amount: string; readonly currency: string; readonly isTotal?: boolean }) {
  const { amount: say } = useAlterSaying();
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
      {say(props.amount, props.currency)}
    </Box>
  );
}
