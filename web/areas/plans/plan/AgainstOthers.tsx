import { Box, Flex } from '@chakra-ui/react';
import type { ComparedRate } from '../../../../core/offer/compareRates.ts';
import { sayAmount } from '../../../../core/words/amount.ts';

/** How a rate compares with each of the others of its plan, in money and percent. */
export function AgainstOthers({ compared }: { readonly compared: ComparedRate }) {
  const { against, currency } = compared;
  if (against.length === 0) return null;
  return (
    <Box my="4" role="group" aria-label="Against the others">
      {against.map(({ id, name, basis, saves, percent }) => (
        <Flex key={`${id}${basis}`} gap="2" fontSize="13px">
          <Box flex="1">
            Against {name}, {basis}
          </Box>
          <Box color={saves > 0n ? 'collected' : undefined} whiteSpace="nowrap">
            {saves === 0n
              ? 'the same'
              : `${sayAmount(saves < 0n ? -saves : saves, currency)} ${saves > 0n ? 'less' : 'more'} (${percent}%)`}
          </Box>
        </Flex>
      ))}
    </Box>
  );
}
