import { Box, Button, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { LinksView } from '../../server/customers/messages.ts';
import { post } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';
import { useAct } from '../api/useAct.ts';
import { MarginHeading } from '../frame/PageAndMargin.tsx';
import { Outcome } from './Outcome.tsx';

/** The links to a customer's own page that letters carry: all of them can be ended, after it is said what that does. */
export function EndLinks({ customerId }: { readonly customerId: string }) {
  const { data } = useAnswer<LinksView>(`/api/customers/${customerId}/links`);
  const [sure, setSure] = useState(false);
  const acting = useAct();
  const end = async () => {
    setSure(false);
    await acting.act(() => post(`/api/customers/${customerId}/links/end`), 'They are ended.');
  };
  if (!data) return null;
  const links = data.good;
  return (
    <Box mt="7">
      <MarginHeading>Links to their own page</MarginHeading>
      <Text mb="2">
        {links === 0
          ? 'None opens it at present. The next letter that needs one carries one.'
          : `${links === 1 ? 'One link in a letter is' : `${links} links in letters are`} good still. Each opens their page without a password.`}
      </Text>
      {links > 0 && !sure && (
        <Button size="xs" variant="outline" onClick={() => setSure(true)}>
          End them …
        </Button>
      )}
      {sure && (
        <>
          <Text mb="2">
            Whoever opens {links === 1 ? 'it' : 'one of them'} reads that it has ended. Letters from now on
            carry new ones, to the address that stands here.
          </Text>
          <Button size="xs" colorPalette="red" variant="outline" mr="2" onClick={() => void end()}>
            End {links === 1 ? 'it' : `all ${links}`}
          </Button>
          <Button size="xs" variant="outline" onClick={() => setSure(false)}>
            {links === 1 ? 'Leave it' : 'Leave them'}
          </Button>
        </>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
