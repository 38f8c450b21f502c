import { Box, Button, Flex, Progress, Text } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import { useSWRConfig } from 'swr';
import { formatDay, parseDay, toDay } from '../../core/dates/day.ts';
import { sayDate } from '../../core/words/date.ts';
import type { BusinessView } from '../../server/run/messages.ts';
import { post, Problem } from '../api/client.ts';
import { useBusiness } from '../api/hooks.ts';
import { DateField } from '../parts/DateField.tsx';

/** Turns the practice clock's page, by a day or to a date, and shows how far it is. It can be left meanwhile. */
export function TurnThePage(props: {
  readonly business: BusinessView;
  /** Pages were turned while one looked on. */
  readonly onTurned: (from: string, to: string) => void;
}) {
  const { business, onTurned } = props;
  const writes = business.role !== 'reader';
  const { mutate } = useBusiness();
  const { mutate: mutateAll } = useSWRConfig();
  const [to, setTo] = useState('');
  const [says, setSays] = useState('');
  const { turn, businessDate } = business;
  const turning = turn !== null && turn.state !== 'done';
  const was = useRef(turning);

  useEffect(() => {
    if (was.current && !turning) {
      void mutateAll(() => true);
      if (turn) onTurned(turn.from, turn.to);
    }
    was.current = turning;
  }, [turning, turn, onTurned, mutateAll]);

  const ask = async (date: string) => {
    setSays('');
    try {
      await mutate(await post<BusinessView>('/api/turns', { to: date }), { revalidate: true });
      setTo('');
    } catch (error) {
      setSays(error instanceof Problem ? error.message : 'The page could not be turned.');
    }
  };

  return (
    <Flex
      direction="column"
      justify="center"
      gap="1"
      w="250px"
      px="4"
      borderLeftWidth="1px"
      borderColor="lines"
    >
      {turning ? (
        <TurnProgress turn={turn} businessDate={businessDate} />
      ) : (
        <>
          <Flex align="center" gap="2">
            {writes && (
              <Button size="xs" colorPalette="kelp" onClick={() => ask(formatDay(toDay(businessDate) + 1))}>
                Turn the page
              </Button>
            )}
            <Text fontFamily="heading" whiteSpace="nowrap" fontSize="13px">
              {sayDate(businessDate)}
            </Text>
          </Flex>
          {writes && (
            <Flex
              as="form"
              align="center"
              gap="2"
              onSubmit={(event) => {
                event.preventDefault();
                void ask(to);
              }}
            >
              <DateField
                label="Turn to this day"
                isBare
                value={to}
                min={formatDay(toDay(businessDate) + 1)}
                onChange={({ target }) => setTo(target.value)}
              />
              <Button type="submit" size="2xs" variant="outline" disabled={parseDay(to) === null}>
                Turn to it
              </Button>
            </Flex>
          )}
        </>
      )}
      <Text role="status" color="declined" fontSize="12px" lineHeight="1.2">
        {says}
      </Text>
    </Flex>
  );
}

function TurnProgress({
  turn,
  businessDate,
}: {
  turn: NonNullable<BusinessView['turn']>;
  businessDate: string;
}) {
  const days = toDay(turn.to) - toDay(turn.from);
  const done = Math.max(0, toDay(businessDate) - toDay(turn.from));
  return (
    <Box role="status">
      <Text fontSize="13px">
        {turn.state === 'waiting' ? turn.says : `Turning: ${sayDate(businessDate)}`}
      </Text>
      <Progress.Root value={days === 0 ? 100 : (done / days) * 100} size="sm" mt="1" colorPalette="kelp">
        <Progress.Label srOnly>Days turned</Progress.Label>
        <Progress.Track>
          <Progress.Range />
        </Progress.Track>
      </Progress.Root>
      <Text fontSize="12px" color="muted" mt="1">
        {done} of {days} days. You may go on working.
      </Text>
    </Box>
  );
}
