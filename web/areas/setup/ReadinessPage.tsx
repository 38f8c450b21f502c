import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link } from 'react-router';
import { useSWRConfig } from 'swr';
import type { Mend, Readiness, ReadinessLine } from '../../../server/readiness/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';

/** What is still missing before money can move, each with what mends it. The start screen until it can. */
export function ReadinessPage() {
  const { data } = useAnswer<Readiness>('/api/readiness');
  const { role } = useFrame();
  const blocking = data?.lines.filter(({ blocks }) => blocks) ?? [];
  const advised = data?.lines.filter(({ blocks }) => !blocks) ?? [];
  return (
    <PageAndMargin
      title="Readiness"
      margin={
        data && (
          <>
            <MarginHeading>Try it as a customer</MarginHeading>
            <Text mb="3">
              Go through an enrolment with a practice card, on a page with your own look. It is a rehearsal:
              it stands in no book, number or statistic.
            </Text>
            {role === 'reader' ? (
              <Text color="muted">A reader cannot rehearse.</Text>
            ) : (
              <Button asChild size="sm" variant="outline">
                <Link to="/rehearsal">Begin the rehearsal</Link>
              </Button>
            )}
            {data.inOrder.length > 0 && (
              <>
                <MarginHeading>In order</MarginHeading>
                <Box as="ul" pl="4" listStyleType="disc">
                  {data.inOrder.map((says) => (
                    <li key={says}>{says}</li>
                  ))}
                </Box>
              </>
            )}
          </>
        )
      }
    >
      {data && (
        <>
          <Text fontSize="16px" mb="5">
            {data.canMoveMoney
              ? 'Money can move.'
              : `Money cannot move yet: ${blocking.length === 1 ? 'one thing is' : `${blocking.length} things are`} missing.`}
            {data.canMoveMoney && advised.length === 0 && ' Nothing is missing.'}
          </Text>
          <Lines title="Before money can move" lines={blocking} />
          <Lines title="Worth mending" lines={advised} />
        </>
      )}
    </PageAndMargin>
  );
}

function Lines({ title, lines }: { readonly title: string; readonly lines: readonly ReadinessLine[] }) {
  if (lines.length === 0) return null;
  return (
    <Box as="section" mb="7" maxW="820px">
      <Text as="h2" fontFamily="heading" fontSize="17px" mb="1">
        {title}
      </Text>
      <Box as="ol" listStyleType="none" p="0">
        {lines.map((line) => (
          <Line key={line.key} line={line} />
        ))}
      </Box>
    </Box>
  );
}

function Line({ line }: { readonly line: ReadinessLine }) {
  const [says, setSays] = useState('');
  const [busy, setBusy] = useState(false);
  const { mutate } = useSWRConfig();
  const { role } = useFrame();
  const act = async (mend: Mend) => {
    setBusy(true);
    setSays('');
    try {
      if (mend.kind === 'here') {
        await post(`/api/readiness/${mend.mend}/mend`);
        await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
      } else if (mend.kind === 'hand-over') {
        const { url } = await post<{ url: string }>('/api/gateways/hand-over');
        window.location.assign(url);
      }
    } catch (error) {
      setSays(error instanceof Problem ? error.message : 'That did not work.');
    } finally {
      setBusy(false);
    }
  };
  return (
    <Flex as="li" borderTopWidth="1px" borderColor="lines" py="3" gap="4" align="flex-start">
      <Box
        aria-hidden
        mt="6px"
        w="9px"
        h="9px"
        flexShrink={0}
        borderWidth="2px"
        borderColor={line.blocks ? 'declined' : 'trial'}
        bg={line.blocks ? 'declined' : 'transparent'}
        transform="rotate(45deg)"
      />
      <Box flex="1">
        <Text fontWeight="600">{line.says}</Text>
        <Text color="muted">{line.why}</Text>
        <Text role="alert" color="declined">
          {says}
        </Text>
      </Box>
      <Flex gap="2" wrap="wrap" justify="flex-end" maxW="330px">
        {line.mends.map((mend) =>
          mend.kind === 'there' ? (
            <Button asChild key={mend.says} size="xs" variant="outline">
              <Link to={mend.path}>{mend.says}</Link>
            </Button>
          ) : (
            role === 'owner' && (
              <Button
                key={mend.says}
                size="xs"
                colorPalette="kelp"
                loading={busy}
                onClick={() => void act(mend)}
              >
                {mend.says}
              </Button>
            )
          ),
        )}
      </Flex>
    </Flex>
  );
}
