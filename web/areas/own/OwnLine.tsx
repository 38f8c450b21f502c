import { Box, Flex } from '@chakra-ui/react';
import { useOwnSaying } from './ownSaying.ts';

/** What something is, and what it comes to; an invoice with its PDF. */
export function Line(props: { readonly left: string; readonly right: string; readonly pdf?: string }) {
  const { left, right, pdf } = props;
  const { words } = useOwnSaying();
  return (
    <Flex py="1" gap="3">
      <Box flex="1">
        {left}
        {pdf && (
          <Box as="span" ml="2">
            <a href={pdf} download style={{ textDecoration: 'underline' }} aria-label={words.asPdf(left)}>
              PDF
            </a>
          </Box>
        )}
      </Box>
      <Box whiteSpace="nowrap">{right}</Box>
    </Flex>
  );
}
