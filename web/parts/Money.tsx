import { Box } from '@chakra-ui/react';
import { sayAmount } from '../../core/words/amount.ts';

/** An amount of minor units with its currency, right-aligned where it stands in a column. */
export function Money({ minor, currency }: { readonly minor: string | bigint; readonly currency: string }) {
  return (
    <Box as="span" whiteSpace="nowrap" fontVariantNumeric="tabular-nums">
      {sayAmount(BigInt(minor), currency)}
    </Box>
  );
}
