import { Box, Heading, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';

/** The sheet that stands before the frame: signing in, becoming the owner, accepting an invitation. */
export function Door({ says, children }: { readonly says: string; readonly children: ReactNode }) {
  return (
    <Box as="main" minH="100vh" display="grid" placeItems="center" bg="ground" p="4">
      <Box
        bg="page"
        borderWidth="1px"
        borderColor="lines"
        borderRadius="md"
        p={{ base: '6', md: '10' }}
        w="full"
        maxW="460px"
      >
        <Heading as="h1" size="3xl" fontWeight="500" mb="3">
          Keen Almanac
        </Heading>
        <Text mb="6">{says}</Text>
        {children}
      </Box>
    </Box>
  );
}
