import { Box, Button, Heading, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useParams } from 'react-router';
import { post, Problem } from '../api/client.ts';

/** Where the one-time link of the terminal leads. The link is used up by the button, not by being opened. */
export function SignInByLink() {
  const { token = '' } = useParams();
  const [says, setSays] = useState('');
  const signIn = async () => {
    try {
      await post('/api/session/link', { token });
      window.location.assign('/');
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
        <Text mb="6">This link signs the owner in, once.</Text>
        <Button colorPalette="kelp" onClick={signIn}>
          Sign in as the owner
        </Button>
        <Text role="status" color="declined" mt="3">
          {says}
        </Text>
      </Box>
    </Box>
  );
}
