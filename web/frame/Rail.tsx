import { Box, Flex } from '@chakra-ui/react';
import { Link, useLocation, useNavigate } from 'react-router';
import { civilOf, formatDay, parseDay, toDay } from '../../core/dates/day.ts';
import { weekdayIndex } from '../../core/dates/weekday.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate, sayDayAndMonth } from '../../core/words/date.ts';
import type { BusinessView, RailDay } from '../../server/run/messages.ts';
import { withQuery } from '../api/client.ts';
import { useAnswer } from '../api/hooks.ts';
import { useRoving } from './roving.ts';
import { TurnThePage } from './TurnThePage.tsx';

const DAYS = 42;
const BEFORE = 19;
const BAR = 34;

/** The day, or the first and last of several, that an address shows. */
const SHOWN = /^\/days\/(\d{4}-\d{2}-\d{2})(?:\/to\/(\d{4}-\d{2}-\d{2}))?$/;

/** The days that an address shows; none where it names a day that is none. */
function daysOf(pathname: string): string[] {
  const days = (SHOWN.exec(pathname) ?? []).slice(1).filter((day) => day !== undefined);
  return days.every((day) => parseDay(day) !== null) ? days : [];
}

/** Where the days shown and another are shown together. */
function spanOf(first: string, last: string, other: string): string {
  return other < first ? `/days/${other}/to/${last}` : `/days/${first}/to/${other}`;
}

/**
 * Six weeks across the top of every screen: what came in, what failed, what is planned. A day opens its sheet; with the shift
 * key, all days up to it are summed.
 */
export function Rail(props: {
  readonly business: BusinessView;
  readonly onTurned: (from: string, to: string) => void;
}) {
  const { business, onTurned } = props;
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const [shown = business.businessDate, shownUntil = shown] = daysOf(pathname);
  const today = toDay(business.businessDate);
  const far = Math.abs(toDay(shown) - today) > DAYS - BEFORE - 2;
  const first = (far ? toDay(shown) : today) - BEFORE;
  const query = { from: formatDay(first), to: formatDay(first + DAYS - 1) };
  // The business day is part of the question, so that a turned page asks anew.
  const { data } = useAnswer<RailDay[]>(withQuery('/api/rail', { ...query, day: business.businessDate }));
  const days = data ?? [];
  const roving = useRoving(shown, { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 7, ArrowUp: -7 });
  const most = Math.max(4, ...days.map((day) => day.collected + day.declined + day.planned));
  return (
    <Flex
      as="nav"
      aria-label="Days"
      bg="page"
      borderBottomWidth="1px"
      borderColor="lines"
      h="92px"
      _print={{ display: 'none' }}
      align="stretch"
      flexShrink={0}
    >
      <Flex flex="1" minW="0" px="3" pt="2" {...roving.group}>
        {Array.from({ length: DAYS }, (_, i) => {
          const date = formatDay(first + i);
          const day = days.find((one) => one.date === date);
          return (
            <DayMark
              key={date}
              date={date}
              day={day}
              most={most}
              today={business.businessDate}
              shown={shown}
              isInSpan={shown <= date && date <= shownUntil}
              onExtend={() => void navigate(spanOf(shown, shownUntil, date))}
              isFirst={i === 0}
              stop={roving.link(date)}
            />
          );
        })}
      </Flex>
      {business.practice && <TurnThePage business={business} onTurned={onTurned} />}
    </Flex>
  );
}

interface DayProps {
  readonly date: string;
  readonly day: RailDay | undefined;
  readonly most: number;
  readonly today: string;
  readonly shown: string;
  /** It is one of the days that are shown. */
  readonly isInSpan: boolean;
  /** Shows all days from those shown to this one. */
  readonly onExtend: () => void;
  readonly isFirst: boolean;
  /** What makes it part of the rail's one tab stop. */
  readonly stop: { readonly 'data-stop': string; readonly tabIndex: number };
}

function DayMark({ date, day, most, today, shown, isInSpan, onExtend, isFirst, stop }: DayProps) {
  const { date: ofMonth } = civilOf(toDay(date));
  const isToday = date === today;
  const isSunday = weekdayIndex(toDay(date)) === 6;
  const height = (count: number) => (count === 0 ? 0 : Math.max(5, Math.round((count / most) * BAR)));
  const parts = {
    collected: height(day?.collected ?? 0),
    declined: height(day?.declined ?? 0),
    planned: height(day?.planned ?? 0),
  };
  const label = sayDay(date, day, isToday);
  return (
    <Link
      to={`/days/${date}`}
      {...stop}
      aria-label={label}
      aria-current={date === shown ? 'date' : undefined}
      title={label}
      onClick={(event) => {
        // With the shift key, by mouse or by Enter, the days up to this one are shown together.
        if (!event.shiftKey || date === shown) return;
        event.preventDefault();
        onExtend();
      }}
      style={{ flex: '1 1 0', minWidth: 0, textDecoration: 'none' }}
    >
      <Flex
        direction="column"
        h="full"
        align="center"
        borderRightWidth={isSunday ? '1px' : '0'}
        borderColor="lines"
        bg={isToday ? 'kelp.muted' : isInSpan ? 'kelp.subtle' : undefined}
        borderTopWidth="2px"
        borderTopColor={isToday ? 'kelp.solid' : 'transparent'}
        _hover={{ bg: 'kelp.subtle' }}
      >
        <svg width="16" height={BAR + 2} aria-hidden style={{ overflow: 'visible' }}>
          <g transform={`translate(0 ${BAR + 1})`}>
            <rect
              x="1"
              y={-parts.collected}
              width="4"
              height={parts.collected}
              fill="var(--chakra-colors-collected)"
            />
            {parts.declined > 0 && (
              <path d={`M6 0V${-parts.declined}l2 2 2-2V0Z`} fill="var(--chakra-colors-declined)" />
            )}
            {parts.planned > 0 && (
              <rect
                x="11.5"
                y={-parts.planned + 0.5}
                width="3.5"
                height={parts.planned}
                fill="none"
                stroke="var(--chakra-colors-planned)"
              />
            )}
          </g>
        </svg>
        <Box
          fontSize="12px"
          color={isToday ? 'kelp.fg' : 'ink'}
          fontWeight={isToday ? '700' : '400'}
          lineHeight="18px"
        >
          {ofMonth}
        </Box>
        <Box
          fontSize="11px"
          color="muted"
          whiteSpace="nowrap"
          lineHeight="14px"
          fontFamily="heading"
          fontStyle="italic"
        >
          {ofMonth === 1 || isFirst ? sayDayAndMonth(date).split(' ')[1] : ''}
        </Box>
      </Flex>
    </Link>
  );
}

function sayDay(date: string, day: RailDay | undefined, isToday: boolean): string {
  const parts = [
    day?.collected ? `${day.collected} collected` : '',
    day?.declined ? `${day.declined} declined` : '',
    day?.planned ? `${day.planned} planned` : '',
  ].filter(Boolean);
  const sums = (day?.sums ?? []).flatMap(({ currency, collected, planned }) => [
    collected === '0' ? '' : `${sayAmount(BigInt(collected), currency)} in`,
    planned === '0' ? '' : `${sayAmount(BigInt(planned), currency)} to come`,
  ]);
  const unknown = day && !day.isForeseen ? ['not foreseen so far ahead'] : [];
  const said = [...parts, ...sums.filter(Boolean), ...unknown].join(', ');
  return `${sayDate(date)}${isToday ? ', the business day' : ''}: ${said || 'nothing'}`;
}
