import { Box, Flex, Text } from '@chakra-ui/react';
import { sayAmount } from '../../../core/words/amount.ts';
import type { TakingEffect } from '../../../server/takings/messages.ts';
import type { Problem } from '../../api/client.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Books } from '../../parts/Books.tsx';

/** What a payment by hand pays, what is left open, and what is over. */
export function WhatItPays({
  effect,
  problem,
}: {
  readonly effect: TakingEffect | null;
  readonly problem: Problem | null;
}) {
  const beside = problem?.faults.some(({ detail }) => detail === problem.message) ?? false;
  return (
    <Box role="status">
      <MarginHeading>What it pays</MarginHeading>
      {problem && !beside && <Text color="declined">{problem.message}</Text>}
      {!effect && !problem && <Text color="muted">Give the amount to see what it pays.</Text>}
      {effect && <Paid effect={effect} />}
    </Box>
  );
}

function Paid({ effect }: { readonly effect: TakingEffect }) {
  const { currency, paid, over, books } = effect;
  const say = (amount: string) => sayAmount(BigInt(amount), currency);
  return (
    <>
      {paid.map((one) => (
        <Box key={one.id} py="1" borderTopWidth="1px" borderColor="lines">
          <Flex justify="space-between" gap="3">
            <Text>Invoice {one.invoice}</Text>
            <Text>{say(one.paid)}</Text>
          </Flex>
          <Text color="muted" fontSize="13px">
            {one.left === '0' ? 'paid in full' : `${say(one.left)} stays open`}
            {one.recovered ? ', recovered from what was written off' : ''}
            {one.closesCase ? '; its case is closed' : ''}
          </Text>
        </Box>
      ))}
      {over !== '0' && (
        <Flex justify="space-between" gap="3" py="1" borderTopWidth="1px" borderColor="lines" color="trial">
          <Text>Kept as credit</Text>
          <Text>{say(over)}</Text>
        </Flex>
      )}
      <Box mt="4">
        <Books lines={books} currency={currency} />
      </Box>
    </>
  );
}
