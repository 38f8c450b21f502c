import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { PaymentPage as Payment } from '../../../server/payments/messages.ts';
import type { RefundView } from '../../../server/refunds/messages.ts';
import { MEANS_NAMES } from '../../../server/payments/meansKinds.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { Part } from '../../parts/Part.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { PaymentFacts } from './PaymentFacts.tsx';
import { RefundIt } from './RefundIt.tsx';

/** One payment: what it was for, what the gateway said of it, what went back. */
export function PaymentPage() {
  const { id = '' } = useParams();
  const { data: payment, error } = useAnswer<Payment>(`/api/payments/${id}`);
  const [refunding, setRefunding] = useState(false);
  if (error) return <PageAndMargin title="There is no such payment">{error.message}</PageAndMargin>;
  if (!payment) return <PageLoading title="Payment" />;
  const say = (amount: string) => sayAmount(BigInt(amount), payment.currency);
  return (
    <PageAndMargin
      title={`Payment of ${say(payment.amount)}`}
      action={
        payment.left !== '0' && (
          <ForWriters>
            <Button
              size="sm"
              colorPalette="kelp"
              aria-expanded={refunding}
              onClick={() => setRefunding(!refunding)}
            >
              Pay it back …
            </Button>
          </ForWriters>
        )
      }
      marginLabel="What it means"
      margin={
        refunding ? (
          <RefundIt key={payment.left} payment={payment} onDone={() => setRefunding(false)} />
        ) : (
          <Standing payment={payment} />
        )
      }
    >
      <Box
        bg="page"
        borderWidth="1px"
        borderColor="lines"
        borderRadius="md"
        px="5"
        py="4"
        mb="5"
        maxW="760px"
      >
        <Text mb="3">
          <StateMark state={payment.state} />
        </Text>
        <PaymentFacts payment={payment} />
      </Box>
      {payment.taking && payment.taking.others.length > 0 && (
        <Part title="Paid with it">
          {payment.taking.others.map(({ id: other, invoice, amount }) => (
            <Flex key={other} gap="3" py="1">
              <TextLink asChild color="kelp.fg">
                <Link to={`/payments/${other}`}>Invoice {invoice}</Link>
              </TextLink>
              <Text>{say(amount)}</Text>
            </Flex>
          ))}
        </Part>
      )}
      {payment.refunds.length > 0 && (
        <Part title="Paid back">
          {payment.refunds.map((refund) => (
            <Refund key={refund.id} refund={refund} />
          ))}
        </Part>
      )}
      {payment.letters.length > 0 && (
        <Part title="Letters">
          {payment.letters.map(({ id: letter, subject, writtenOn }) => (
            <Flex key={letter} gap="3" py="1">
              <Text w="112px">{sayDayMonthYear(writtenOn)}</Text>
              <TextLink asChild color="kelp.fg">
                <Link to={`/letters?letter=${letter}`}>{subject}</Link>
              </TextLink>
            </Flex>
          ))}
        </Part>
      )}
    </PageAndMargin>
  );
}

function Refund({ refund }: { readonly refund: RefundView }) {
  const acting = useAct();
  const { id, state, means, amount, currency, reason, says, askedOn, askedBy, creditNote } = refund;
  return (
    <Box py="1.5" borderTopWidth="1px" borderColor="lines">
      <Flex gap="3" align="baseline">
        <Text w="112px" flexShrink={0}>
          {sayDayMonthYear(askedOn)}
        </Text>
        <Box w="112px" flexShrink={0}>
          <StateMark state={state} />
        </Box>
        <Text flex="1" color="muted" overflowWrap="anywhere">
          {reason}
          {creditNote !== null && `, credit note ${creditNote}`}
          {means !== 'gateway' && `, by ${MEANS_NAMES[means].toLowerCase()}`}, by {askedBy}. {says}
          {state === 'under way' && refund.expectedOn !== null
            ? `The banks answer on ${sayDate(refund.expectedOn)}.`
            : ''}
        </Text>
        <Text>{sayAmount(BigInt(amount), currency)}</Text>
        {state === 'under way' && (
          <ForWriters>
            <Button
              size="2xs"
              variant="outline"
              loading={acting.busy}
              onClick={() => void acting.act(() => post(`/api/refunds/${id}/ask`))}
            >
              Ask now
            </Button>
          </ForWriters>
        )}
      </Flex>
      {acting.problem && <Outcome of={acting} />}
    </Box>
  );
}

/** What came of it, and what can be done. */
function Standing({ payment }: { readonly payment: Payment }) {
  const { state, left, currency, owed, invoice, caseId, rung } = payment;
  const say = (amount: string) => sayAmount(BigInt(amount), currency);
  return (
    <>
      <MarginHeading>How it stands</MarginHeading>
      {state === 'waiting' && <Text>Its gateway cannot be asked. It is asked again every minute.</Text>}
      {state === 'under way' && <Text>{payment.says}.</Text>}
      {state === 'declined' && (
        <Text>
          {payment.says}.{' '}
          {caseId !== null && rung !== null ? `It was rung ${rung + 1} of the ladder of its case.` : ''}
        </Text>
      )}
      {left !== '0' && (
        <Text>
          {say(left)} of it can go back{payment.byGateway ? ` to ${payment.method}` : ''}, to the customer’s
          credit, or by hand.
        </Text>
      )}
      {state === 'refunded' && <Text>All of it went back.</Text>}
      {owed !== '0' && (
        <Text mt="2">
          {say(owed)} of invoice {invoice} is open.
        </Text>
      )}
      {caseId !== null && (
        <TextLink asChild color="kelp.fg" mt="2" display="block">
          <Link to={`/cases?case=${caseId}`}>Open its case</Link>
        </TextLink>
      )}
    </>
  );
}
