import { Box, Button, Heading, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useSWRConfig } from 'swr';
import { post, Problem } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';

/** Asks who is there. In the demo one button signs in; that button does not exist elsewhere. */
export function SignIn() {
  const { data } = useAnswer<{ demo: boolean }>('/api/session');
  const { mutate } = useSWRConfig();
  const [says, setSays] = useState('');
  const signIn = async () => {
    try {
      await post('/api/session/demo');
      await mutate(() => true);
    } catch (error) {
      setSays(error instanceof Problem ? error.message : 'Signing in did not work.');
    }
  };
  return (
    <Box as="main" minH="100vh" display="grid" placeItems="center" bg="ground">
      <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" p="10" maxW="460px">
        <Heading as="h1" size="3xl" fontWeight="500" mb="3">
          Keen Almanac
        </Heading>
        <Text mb="6">
          Nothing is confirmed before you have seen what it will do, day by day and to the cent; nothing is
          ever charged twice; nobody lapses in silence.
        </Text>
        {data?.demo === false && (
          <Text>On the server’s terminal, ./almanac sign-in prints a link that signs the owner in.</Text>
        )}
        {data?.demo && (
          <Button colorPalette="kelp" onClick={signIn}>
            Open the sample business
          </Button>
        )}
        <Text role="status" color="declined" mt="3">
          {says}
        </Text>
      </Box>
    </Box>
  );
}
