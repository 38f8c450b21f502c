import { Box, Heading } from '@chakra-ui/react';
import type { ReactNode } from 'react';

/** A part of a customer's own page, under its heading. */
export function OwnPart({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <Box as="section" mt="5" pt="4" borderTopWidth="1px" borderColor="lines">
      <Heading as="h2" size="lg" fontWeight="500" mb="2">
        {title}
      </Heading>
      {children}
    </Box>
  );
}
