import { Box, Flex, Text } from '@chakra-ui/react';
import type { CompiledTerms } from '../../core/agreed/terms.ts';
import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { explainFirst, taxesOf } from '../../core/words/explainFirst.ts';

/** What the first payment of some terms is made of; nothing where it is the plain price of a period. */
export function FirstPayment({
  terms,
  currency,
}: {
  readonly terms: CompiledTerms;
  readonly currency: string;
}) {
  const payment = new PaymentWalk(terms).next();
  const parts = payment ? explainFirst(payment) : [];
  if (!payment || parts.length === 0) return null;
  const { added, held } = taxesOf(payment);
  return (
    <Box mt="3" fontSize="13px" role="group" aria-label="The first payment">
      <Text fontWeight="500">The first payment</Text>
      {parts.map(({ says, amount }, i) => (
        <Flex key={i} gap="3" justify="space-between" color="muted">
          <span>{says}</span>
          <Box as="span" whiteSpace="nowrap">
            {sayAmount(amount, currency)}
          </Box>
        </Flex>
      ))}
      {added !== 0n && (
        <Flex gap="3" justify="space-between" color="muted">
          <span>Tax</span>
          <span>{sayAmount(added, currency)}</span>
        </Flex>
      )}
      {held !== 0n && <Text color="muted">It holds {sayAmount(held, currency)} of tax.</Text>}
    </Box>
  );
}
