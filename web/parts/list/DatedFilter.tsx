import { Flex } from '@chakra-ui/react';
import { formatDay, parseDay, toDay } from '../../../core/dates/day.ts';
import { weekdayIndex } from '../../../core/dates/weekday.ts';
import { DateField } from '../DateField.tsx';
import { useManner } from '../manner.ts';
import { Choice } from './Choice.tsx';

/** Which dates are asked for: of what, from and until, both inclusive; empty: not asked. */
export interface Dated {
  readonly dated: string;
  readonly from: string;
  readonly until: string;
}

const WHENS = {
  week: 'this week',
  fortnight: 'in 14 days',
  month: 'in 30 days',
  past: 'in the last 30 days',
} as const;
type When = keyof typeof WHENS;

/** The days that a word stands for, from the business day on. A week ends on its Sunday. */
export function daysOf(when: When, today: string): { from: string; until: string } {
  const day = toDay(today);
  const ahead = { week: 6 - weekdayIndex(day), fortnight: 14, month: 30, past: 0 }[when];
  return { from: formatDay(when === 'past' ? day - 30 : day), until: formatDay(day + ahead) };
}

/** Filters by a date of each row: of what, and when. */
export function DatedFilter(props: {
  readonly of: Readonly<Record<string, string>>;
  readonly value: Dated;
  readonly onChange: (to: Dated) => void;
}) {
  const { of, value, onChange } = props;
  const { today } = useManner();
  const { dated, from, until } = value;
  const known = (Object.keys(WHENS) as When[]).find((when) => {
    const days = daysOf(when, today);
    return days.from === from && days.until === until;
  });
  return (
    <>
      <Choice
        label="By date"
        all="Any date"
        value={dated}
        choices={Object.entries(of)}
        onChange={(to) =>
          onChange(
            to === ''
              ? { dated: '', from: '', until: '' }
              : { dated: to, ...(from ? { from, until } : daysOf('week', today)) },
          )
        }
      />
      {dated !== '' && (
        <Choice
          label="When"
          all="between …"
          value={known ?? ''}
          choices={Object.entries(WHENS)}
          onChange={(to) =>
            onChange({ dated, ...(to === '' ? { from: today, until: '' } : daysOf(to as When, today)) })
          }
        />
      )}
      {dated !== '' && known === undefined && (
        <Flex gap="2" w="330px">
          {(['from', 'until'] as const).map((end) => (
            <DateField
              key={end}
              isBare
              label={end === 'from' ? 'From' : 'Until'}
              value={value[end]}
              onChange={({ target }) =>
                (target.value === '' || parseDay(target.value) !== null) &&
                onChange({ ...value, [end]: target.value })
              }
            />
          ))}
        </Flex>
      )}
    </>
  );
}
