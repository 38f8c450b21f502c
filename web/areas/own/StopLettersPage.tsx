import { Button, Heading, Text } from '@chakra-ui/react';
import { useEffect } from 'react';
import { useParams } from 'react-router';
import { ownWords } from '../../../core/words/ownPage/wordsOf.ts';
import type { StoppableLetter } from '../../../server/notices/wordsMessages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { CustomerSheet } from '../../parts/CustomerSheet.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

/** Where a customer stops letters of a kind, or has them again; they come by the link at the foot of one. */
export function StopLettersPage() {
  const { token = '' } = useParams();
  const { data, error } = useAnswer<StoppableLetter>(`/api/own/${token}/stop`);
  const acting = useAct();
  const language = data?.language ?? 'en';
  useEffect(() => {
    document.documentElement.lang = language;
  }, [language]);
  const words = ownWords(language).stop;
  return (
    <CustomerSheet business={data?.business ?? ''} look={data?.look ?? null}>
      {error && !data ? (
        <Text role="alert">{error.message}</Text>
      ) : !data ? (
        <Text>…</Text>
      ) : (
        <>
          <Heading as="h1" size="xl" fontWeight="500" mb="3">
            {words.title}
          </Heading>
          <Text mb="4" role="status">
            {(data.stopped ? words.stopped : words.asks)(words.kinds[data.event], data.to)}
          </Text>
          <Button
            data-main
            loading={acting.busy}
            onClick={() => void acting.act(() => post(`/api/own/${token}/stop`, { stop: !data.stopped }))}
          >
            {data.stopped ? words.again : words.stop}
          </Button>
          <Text color="muted" mt="4">
            {words.others}
          </Text>
          <Outcome of={acting} />
        </>
      )}
    </CustomerSheet>
  );
}
