import { Box, Text } from '@chakra-ui/react';
import { useMemo } from 'react';
import { formatDay, toDay } from '../../../../core/dates/day.ts';
import { EVERY_DAY, type WorkingDays } from '../../../../core/dates/workingDay.ts';
import { DECLINE_CLASSES, meaningOf, type DeclineClass } from '../../../../core/recovery/declineCodes.ts';
import { mayRetry, type FinalAction } from '../../../../core/recovery/ladder.ts';
import { openStanding, toCome } from '../../../../core/recovery/stepOfCase.ts';
import { Law } from '../../../../core/terms/law.ts';
import { sayShortDate } from '../../../../core/words/date.ts';
import type { EnrolmentForm } from '../../../../server/subscriptions/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import { Mark } from '../../../parts/ThreadLine.tsx';
import type { TypedLadder } from './ladderDraft.ts';
import { LANES } from './LadderLine.tsx';

/** A decline of each class, by its code (ISO 8583-1). */
const SAMPLES: Readonly<Record<DeclineClass, string>> = { wait: '51', soon: '91', ask: '54', never: '41' };

export const FINALS: Readonly<Record<FinalAction, string>> = {
  lapse: 'The subscription lapses; the invoice stays open',
  end: 'The subscription ends',
  'lapse and write off': 'The subscription lapses and the invoice is written off',
  leave: 'All is left as it is',
};

interface Done {
  readonly tries: boolean;
  readonly writes: boolean;
  readonly staff: boolean;
  readonly stops: boolean;
  readonly ends: boolean;
}
const NOTHING: Done = { tries: false, writes: false, staff: false, stops: false, ends: false };

/** Exactly which attempts and letters come on which dates, for a payment of each class of decline that fails today. */
export function DatesOfLadder({ typed }: { readonly typed: TypedLadder }) {
  const { businessDate } = useFrame();
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const calendar = useMemo(
    () => (form && typed.policy.manner.workingDays ? new Law(form.law).homeWorkingDays() : EVERY_DAY),
    [form, typed.policy.manner.workingDays],
  );
  const rows = useMemo(() => datesOf(typed, businessDate, calendar), [typed, businessDate, calendar]);
  return (
    <Box overflowX="auto">
      <Box as="table" w="full" fontSize="13px">
        <thead>
          <tr>
            <Box as="th" textAlign="start" fontWeight="500" pb="1">
              Day
            </Box>
            {DECLINE_CLASSES.map((one) => (
              <Box
                key={one}
                as="th"
                fontWeight="500"
                pb="1"
                px="1"
                lineHeight="1.2"
                verticalAlign="bottom"
                title={`Code ${SAMPLES[one]}: ${meaningOf(SAMPLES[one]).says}`}
              >
                {LANES[one]}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([date, of]) => (
            <Box as="tr" key={date} borderTopWidth="1px" borderColor="lines">
              <Box as="td" py="0.5" whiteSpace="nowrap">
                {sayShortDate(date)}
              </Box>
              {DECLINE_CLASSES.map((one) => (
                <Box as="td" key={one} textAlign="center">
                  <Cell done={of[one]} />
                </Box>
              ))}
            </Box>
          ))}
        </tbody>
      </Box>
      <Text color="muted" fontSize="12.5px" mt="2">
        A tick: the card is tried. A flag: a letter. A ring: staff. Two bars: the service stops. A bar: the
        end. For codes {DECLINE_CLASSES.map((one) => SAMPLES[one]).join(', ')}.
      </Text>
    </Box>
  );
}

function Cell({ done = NOTHING }: { readonly done: Done | undefined }) {
  const says = [
    done.tries ? 'try' : '',
    done.writes ? 'write' : '',
    done.staff ? 'staff' : '',
    done.stops ? 'service stopped' : '',
    done.ends ? 'the end' : '',
  ].filter(Boolean);
  if (says.length === 0) return null;
  return (
    <>
      <Text as="span" srOnly>
        {says.join(', ')}
      </Text>
      <svg width="34" height="20" viewBox="-17 -10 34 20" aria-hidden style={{ display: 'inline-block' }}>
        {done.tries && (
          <g transform="translate(-6,0)">
            <Mark kind="retry" />
          </g>
        )}
        {done.writes && <Mark kind="notice" />}
        {done.staff && <circle cx="11" cy="4" r="2.6" fill="none" stroke="var(--chakra-colors-ink)" />}
        {done.stops && <path d="M9 -8v6M12 -8v6" stroke="var(--chakra-colors-paused)" strokeWidth="1.5" />}
        {done.ends && <Mark kind="end" />}
      </svg>
    </>
  );
}

type Rows = (readonly [string, Readonly<Partial<Record<DeclineClass, Done>>>])[];

/** What comes on which date, date by date: computed by what climbs the cases. */
export function datesOf({ policy }: TypedLadder, businessDate: string, calendar: WorkingDays): Rows {
  const today = toDay(businessDate);
  const by = new Map<number, Partial<Record<DeclineClass, Done>>>();
  const note = (on: number, one: DeclineClass, done: Partial<Done>) => {
    const row = by.get(on) ?? {};
    row[one] = { ...NOTHING, ...row[one], ...done };
    by.set(on, row);
  };
  const climbed = { ladder: policy, calendar };
  for (const one of DECLINE_CLASSES) {
    const standing = openStanding(climbed, one, today, { practice: true, dayAfter: () => today + 1 });
    if (standing.retryOn !== null) note(standing.retryOn, one, { tries: true });
    const { rungs, finalOn } = toCome(standing, climbed);
    for (const { rung: at, on } of rungs) {
      const rung = policy.rungs[at];
      if (!rung) continue;
      note(on, one, {
        ...(mayRetry(rung, one) ? { tries: true } : {}),
        writes: rung.letter,
        staff: rung.tellsStaff === true || rung.acts?.kind === 'task',
        stops: rung.acts?.kind === 'pause',
      });
    }
    note(finalOn, one, { ends: true });
  }
  return [...by].toSorted(([a], [b]) => a - b).map(([on, row]) => [formatDay(on), row] as const);
}
