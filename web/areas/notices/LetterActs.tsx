import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { useSWRConfig } from 'swr';
import {
  LETTER_ACTS,
  type LetterAct,
  type LetterEffect,
  type LetterState,
} from '../../../server/notices/messages.ts';
import { post } from '../../api/client.ts';
import { capital } from '../../../core/words/capital.ts';

const SAYS: Readonly<Record<LetterAct, string>> = {
  hold: 'Hold back',
  release: 'Let go',
  'take back': 'Take back',
  'send again': 'Send again',
};

/** What can be done with a letter in a state. */
const OF_STATE: Readonly<Record<LetterState, readonly LetterAct[]>> = {
  queued: ['hold', 'take back'],
  held: ['release', 'take back'],
  sent: ['send again'],
  undeliverable: ['send again'],
  'taken back': [],
};

/** What is done with a letter, or with several: what it does to each is shown first, and who is left out. */
export function LetterActs({
  ids,
  state,
}: {
  readonly ids: readonly string[];
  readonly state?: LetterState;
}) {
  const [act, setAct] = useState<LetterAct | null>(null);
  const acts = state === undefined ? LETTER_ACTS : OF_STATE[state];
  return (
    <>
      <Flex gap="2" wrap="wrap">
        {acts.map((one) => (
          <Button
            key={one}
            size="xs"
            variant={act === one ? 'solid' : 'outline'}
            bg={act === one ? undefined : 'page'}
            colorPalette={act === one ? 'kelp' : undefined}
            onClick={() => setAct(one)}
          >
            {SAYS[one]}
          </Button>
        ))}
      </Flex>
      {act !== null && (
        <Doing key={`${act} ${ids.join()}`} act={act} ids={ids} onClose={() => setAct(null)} />
      )}
    </>
  );
}

function Doing(props: {
  readonly act: LetterAct;
  readonly ids: readonly string[];
  readonly onClose: () => void;
}) {
  const { act, ids, onClose } = props;
  const { mutate } = useSWRConfig();
  const [effects, setEffects] = useState<readonly LetterEffect[] | null>(null);
  const [done, setDone] = useState(false);
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState('');
  const asked = JSON.stringify({ ids, act });
  useEffect(() => {
    let isOld = false;
    post<LetterEffect[]>('/api/letters/acts/effect', JSON.parse(asked) as object)
      .then((of) => !isOld && setEffects(of))
      .catch((error: unknown) => !isOld && setWrong(sayWrong(error)));
    return () => {
      isOld = true;
    };
  }, [asked]);
  const good = effects?.filter(({ may }) => may) ?? [];
  const left = effects?.filter(({ may }) => !may) ?? [];
  const confirm = async () => {
    setBusy(true);
    try {
      setEffects(await post<LetterEffect[]>('/api/letters/acts', { ids, act }));
      setDone(true);
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/letters'));
    } catch (error) {
      setWrong(sayWrong(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box role="group" aria-label={SAYS[act]} mt="2" p="3" bg="page" borderWidth="1px" borderColor="lines">
      {wrong !== '' && <Text color="declined">{wrong}</Text>}
      {effects !== null && (
        <>
          <Text role="status">
            {good.length === 0
              ? 'Nothing is done.'
              : ids.length === 1
                ? (good[0]?.says ?? '')
                : `${good.length} of ${ids.length} letters.`}
            {done && good.length > 0 ? ' Done.' : ''}
          </Text>
          {left.length > 0 && (
            <Box as="ul" listStyleType="none" maxH="160px" overflowY="auto">
              {left.map(({ id, customer, subject, says }) => (
                <Text as="li" key={id} color="muted" fontSize="13px">
                  Left out: {customer}, {subject}. {says}
                </Text>
              ))}
            </Box>
          )}
        </>
      )}
      <Flex gap="2" mt="2">
        {!done && (
          <Button
            size="xs"
            colorPalette="kelp"
            loading={busy}
            disabled={effects === null || good.length === 0}
            onClick={() => void confirm()}
          >
            {ids.length === 1 ? SAYS[act] : `${SAYS[act]} (${good.length})`}
          </Button>
        )}
        <Button size="xs" variant="outline" onClick={onClose}>
          Close
        </Button>
      </Flex>
    </Box>
  );
}

const sayWrong = (error: unknown) => capital(error instanceof Error ? error.message : 'it did not work');
