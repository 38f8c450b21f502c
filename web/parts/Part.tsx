import { Box, Text } from '@chakra-ui/react';

/** A part of a long form, under its own heading. */
export function Part({ title, children }: { readonly title: string; readonly children: React.ReactNode }) {
  return (
    <Box as="section" borderTopWidth="1px" borderColor="lines" pt="4">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        {title}
      </Text>
      {children}
    </Box>
  );
}
