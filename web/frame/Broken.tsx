import { Box, Button, Heading, Text } from '@chakra-ui/react';

/** What stands in place of a page that broke: nothing stored is lost by it, and one can go on. */
export function Broken({ error }: { readonly error: unknown }) {
  const says = error instanceof Error ? error.message : 'no further word';
  return (
    <Box as="main" p="10" maxW="620px">
      <Heading as="h1" size="2xl" fontWeight="500" mb="3">
        This page broke
      </Heading>
      <Text mb="2">
        It is a fault of ours. What was stored is kept; what you were typing here is not. Open the page again,
        or go to the start.
      </Text>
      <Text color="muted" fontSize="13px" mb="4">
        For whoever looks after this: {says}
      </Text>
      <Button size="sm" colorPalette="kelp" mr="2" onClick={() => window.location.reload()}>
        Open it again
      </Button>
      <Button size="sm" variant="outline" onClick={() => window.location.assign('/')}>
        Go to the start
      </Button>
    </Box>
  );
}
