import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link } from 'react-router';
import { STARTING_LADDERS } from '../../../core/recovery/startingLadders.ts';
import type { LadderRow } from '../../../server/recovery/ladderMessages.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayRungShort } from '../../parts/sayRung.ts';
import { FINALS } from './ladder/DatesOfLadder.tsx';
import { sayServes } from './ladder/ForWhom.tsx';

/** The ladders that failed payments climb: the first that is for a case is the one that it climbs. */
export function LaddersPage() {
  const { data: ladders, error } = useAnswer<LadderRow[]>('/api/ladders');
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const acting = useAct();
  const [retiring, setRetiring] = useState<string | null>(null);
  if (error) return <PageAndMargin title="Ladders">{error.message}</PageAndMargin>;
  if (!ladders) return <PageLoading title="Ladders" shape="rows" />;
  const retire = async ({ id, name }: LadderRow) => {
    const done = await acting.act(() => post(`/api/ladders/${id}/retire`, {}), `${name} is out of use.`);
    if (done) setRetiring(null);
  };
  const some = ladders.filter(({ isDefault }) => !isDefault);
  const nameOf = (id: string) => plans?.find((plan) => plan.id === id)?.name ?? 'a plan';
  const move = (at: number, to: number) => {
    const ids = some.map(({ id }) => id);
    ids.splice(to, 0, ...ids.splice(at, 1));
    void acting.act(() => put('/api/ladders/order', { ids }));
  };
  return (
    <PageAndMargin
      title="Ladders"
      action={
        <Flex gap="2">
          <Button asChild size="sm" variant="outline">
            <Link to="/ladders/what-if">Compare ladders</Link>
          </Button>
          <ForWriters>
            <Button asChild size="sm" colorPalette="kelp">
              <Link to="/ladders/new">Make a ladder</Link>
            </Button>
          </ForWriters>
        </Flex>
      }
    >
      <Text color="muted" mb="3" maxW="720px">
        A payment that fails opens a case, and the case climbs the first ladder that is for it, from above.
        What is changed here holds for cases that open from now on.
      </Text>
      <Box as="ol" listStyleType="none" maxW="980px">
        {ladders.map((ladder, at) => (
          <Flex
            as="li"
            key={ladder.id}
            gap="4"
            py="3"
            borderTopWidth="1px"
            borderColor="lines"
            align="flex-start"
          >
            <Box flex="1" minW="0">
              <TextLink asChild fontWeight="600" color="kelp.fg">
                <Link to={`/ladders/${ladder.id}`}>{ladder.name}</Link>
              </TextLink>
              <Text as="span" color="muted" ml="2">
                version {ladder.version}
              </Text>
              <Text>
                {ladder.isDefault ? 'For everybody else' : `For: ${sayServes(ladder.serves, nameOf)}`}
              </Text>
              {retiring === ladder.id && (
                <Flex gap="3" align="center" my="1">
                  <Text>
                    No case begins to climb it any more.{' '}
                    {ladder.open === 1
                      ? 'The one that climbs it goes on.'
                      : `The ${ladder.open} that climb it go on.`}
                  </Text>
                  <Button
                    size="xs"
                    colorPalette="kelp"
                    loading={acting.busy}
                    onClick={() => void retire(ladder)}
                  >
                    Take it out of use
                  </Button>
                </Flex>
              )}
              <Text color="muted" fontSize="13px">
                {ladder.policy.rungs.map((rung) => `day ${rung.afterDays} ${sayRungShort(rung)}`).join(' · ')}{' '}
                · day {ladder.policy.finalAfterDays}: {FINALS[ladder.policy.finalAction].toLowerCase()}
              </Text>
            </Box>
            <Box w="200px" flexShrink="0">
              <TextLink asChild>
                <Link to={`/cases?state=open&ladder=${ladder.id}`}>
                  {ladder.open} open{ladder.older > 0 ? `, ${ladder.older} on an older version` : ''}
                </Link>
              </TextLink>
              <Text color="muted" fontSize="13px">
                {ladder.recovered} recovered, {ladder.givenUp} given up
              </Text>
            </Box>
            <ForWriters>
              <Flex gap="1" w="190px" flexShrink="0" justify="flex-end">
                {!ladder.isDefault && (
                  <>
                    <Button
                      size="xs"
                      variant="outline"
                      disabled={at === 0 || acting.busy}
                      aria-label={`Ask ${ladder.name} earlier`}
                      onClick={() => move(at, at - 1)}
                    >
                      ↑
                    </Button>
                    <Button
                      size="xs"
                      variant="outline"
                      disabled={at >= some.length - 1 || acting.busy}
                      aria-label={`Ask ${ladder.name} later`}
                      onClick={() => move(at, at + 1)}
                    >
                      ↓
                    </Button>
                    <Button
                      size="xs"
                      variant="outline"
                      aria-expanded={retiring === ladder.id}
                      onClick={() => setRetiring(retiring === ladder.id ? null : ladder.id)}
                    >
                      Out of use …
                    </Button>
                  </>
                )}
              </Flex>
            </ForWriters>
          </Flex>
        ))}
      </Box>
      <Outcome of={acting} />
      <ForWriters>
        <Text as="h2" fontFamily="heading" fontSize="16px" mt="7" mb="2">
          Ladders to start from
        </Text>
        {Object.entries(STARTING_LADDERS).map(([key, { name, aim, says }]) => (
          <Box key={key} py="1.5" maxW="980px" borderTopWidth="1px" borderColor="lines">
            <TextLink asChild fontWeight="500" color="kelp.fg">
              <Link to={`/ladders/new?from=${key}`}>{name}</Link>
            </TextLink>
            <Text as="span" ml="2">
              {aim}
            </Text>
            <Text color="muted" fontSize="13px">
              {says}
            </Text>
          </Box>
        ))}
      </ForWriters>
    </PageAndMargin>
  );
}
