import { Box, Text } from '@chakra-ui/react';
import { sayFigure } from '../../core/words/amount.ts';
import type { ShownEntryLine } from '../../server/books/sayEntry.ts';

/** What is posted to the books: each account, debits in one column and credits in the other. */
export function Books({
  lines,
  currency,
}: {
  readonly lines: readonly ShownEntryLine[];
  readonly currency: string;
}) {
  if (lines.length === 0) return <Text color="muted">Nothing is posted.</Text>;
  const figure = (amount: bigint) => (amount > 0n ? sayFigure(amount, currency) : '');
  return (
    <Box as="table" w="full" fontSize="13px" aria-label="What is posted to the books">
      <thead>
        <tr>
          {['Books', 'Debit', 'Credit'].map((heading, i) => (
            <Box
              as="th"
              key={heading}
              textAlign={i === 0 ? 'start' : 'end'}
              color="muted"
              fontWeight="500"
              pb="1"
            >
              {heading}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map(({ account, amount }, i) => (
          <tr key={i}>
            <td>{account}</td>
            <Box as="td" textAlign="end">
              {figure(BigInt(amount))}
            </Box>
            <Box as="td" textAlign="end">
              {figure(-BigInt(amount))}
            </Box>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
