import { Box, CloseButton, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate, sayShortDate } from '../../core/words/date.ts';
import type { TurnedPages as Turned } from '../../server/run/messages.ts';
import { withQuery } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';

/** What happened while pages were turned, in one line under the rail, until it is put away. */
export function TurnedPages({
  from,
  to,
  onClose,
}: {
  readonly from: string;
  readonly to: string;
  readonly onClose: () => void;
}) {
  const { data } = useAnswer<Turned>(withQuery('/api/turned', { from, to }));
  if (!data || data.from !== from || data.to !== to) return null;
  const last = formatDay(toDay(to) - 1);
  return (
    <Flex
      role="status"
      aria-label="What happened while the pages were turned"
      align="baseline"
      gap="3"
      px="7"
      py="1.5"
      bg="kelp.subtle"
      borderBottomWidth="1px"
      borderColor="lines"
    >
      <Text fontFamily="heading" whiteSpace="nowrap">
        {last === from ? sayDate(from) : `${sayShortDate(from)} to ${sayDate(last)}`}
      </Text>
      <Text flex="1">
        {partsOf(data).join(', ') || 'nothing happened'}.{' '}
        {data.needs > 0 && (
          <TextLink asChild color="kelp.fg" fontWeight="600">
            <Link to="/">{data.needs === 1 ? 'One thing needs' : `${data.needs} things need`} a person</Link>
          </TextLink>
        )}
      </Text>
      <Box>
        <CloseButton size="2xs" aria-label="Put the summary away" onClick={onClose} />
      </Box>
    </Flex>
  );
}

function partsOf({ sums, started, ended, lapsed, recovered, letters }: Turned): string[] {
  const counted = (count: number, one: string, many: string) =>
    count === 0 ? [] : [`${count} ${count === 1 ? one : many}`];
  return [
    ...sums.flatMap(({ currency, collected, inCount, declined, outCount }) => [
      ...(inCount > 0 ? [`${sayAmount(BigInt(collected), currency)} came in (${inCount})`] : []),
      ...(outCount > 0 ? [`${sayAmount(BigInt(declined), currency)} declined (${outCount})`] : []),
    ]),
    ...counted(recovered, 'recovered', 'recovered'),
    ...counted(started, 'started', 'started'),
    ...counted(ended, 'ended', 'ended'),
    ...counted(lapsed, 'lapsed', 'lapsed'),
    ...counted(letters, 'letter written', 'letters written'),
  ];
}
