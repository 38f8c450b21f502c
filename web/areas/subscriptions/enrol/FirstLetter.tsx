import { Box, Text } from '@chakra-ui/react';
import { useDeferredValue } from 'react';
import useSWR from 'swr';
import type {
  FirstLetterMessage,
  FirstLetterView,
} from '../../../../server/reckonings/firstLetterMessages.ts';
import { post } from '../../../api/client.ts';

/** The first letter of what is being typed, as it will be read. */
export default function FirstLetter({
  message,
  files,
}: {
  readonly message: FirstLetterMessage;
  /** The documents that go with it, by name. */
  readonly files: readonly string[];
}) {
  const asked = useDeferredValue(JSON.stringify(message));
  const { data, error } = useSWR<FirstLetterView, Error>(
    ['first letter', asked],
    () => post<FirstLetterView>('/api/first-letter', JSON.parse(asked) as object),
    { keepPreviousData: true },
  );
  if (error) return <Text color="declined">{error.message}</Text>;
  if (!data) return <Text color="muted">Loading …</Text>;
  return (
    <Box>
      <Text>
        <strong>{data.subject}</strong>
      </Text>
      {!data.isOn && <Text color="trial">Letters of this kind are switched off in Setup, Recovery.</Text>}
      {files.length > 0 && <Text color="muted">With it: {files.join(', ')}</Text>}
      <Box borderWidth="1px" borderColor="lines" borderRadius="md" overflow="hidden" mt="1">
        <iframe
          title={`Letter: ${data.subject}`}
          sandbox=""
          srcDoc={data.html}
          style={{ width: '100%', height: 320, border: 0, display: 'block', background: '#F3F6F4' }}
        />
      </Box>
    </Box>
  );
}
