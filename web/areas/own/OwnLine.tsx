import { Box, Flex } from '@chakra-ui/react';

/** What something is, and what it comes to; an invoice with its PDF. */
export function Line(props: { readonly left: string; readonly right: string; readonly pdf?: string }) {
  const { left, right, pdf } = props;
  return (
    <Flex py="1" gap="3">
      <Box flex="1">
        {left}
        {pdf && (
          <Box as="span" ml="2">
            <a href={pdf} download style={{ textDecoration: 'underline' }} aria-label={`${left}, as PDF`}>
              PDF
            </a>
          </Box>
        )}
      </Box>
      <Box whiteSpace="nowrap">{right}</Box>
    </Flex>
  );
}
