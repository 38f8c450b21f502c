import { Box } from '@chakra-ui/react';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import type { AnchorDraft, RateDraft } from './draft.ts';

const WEEKDAYS = {
  mon: 'Monday',
  tue: 'Tuesday',
  wed: 'Wednesday',
  thu: 'Thursday',
  fri: 'Friday',
  sat: 'Saturday',
  sun: 'Sunday',
};
const MONTHS = 'January February March April May June July August September October November December'.split(
  ' ',
);

/** From which day periods are counted: the start, or a day of the month, week or year. */
export function AnchorFields(props: {
  anchor: AnchorDraft;
  unit: RateDraft['unit'];
  faultAt: (pointer: string) => string | undefined;
  onChange: (to: Partial<AnchorDraft>) => void;
}) {
  const { anchor, unit, faultAt, onChange } = props;
  const fault = ['', '/day', '/days', '/month', '/weekday', '/nth']
    .map((name) => faultAt(`/on${name}`))
    .find((said) => said);
  const kinds: Partial<Record<AnchorDraft['kind'], string>> = {
    none: 'the day it starts',
    ...(unit === 'M'
      ? { day: 'a day of the month', days: 'two days of the month', nth: 'a weekday of the month' }
      : {}),
    ...(unit === 'W' ? { weekday: 'a weekday' } : {}),
    ...(unit === 'Y' ? { month: 'a day of the year' } : {}),
  };
  const day = (label: string, name: 'day' | 'second') => (
    <Box w="90px">
      <TextField
        label={label}
        maxLength={4}
        value={anchor[name]}
        onChange={(event) => onChange({ [name]: event.target.value })}
      />
    </Box>
  );
  const weekday = (
    <Box w="130px">
      <SelectField
        label="Weekday"
        value={anchor.weekday}
        onChange={(event) => onChange({ weekday: event.target.value as AnchorDraft['weekday'] })}
      >
        {Object.entries(WEEKDAYS).map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </SelectField>
    </Box>
  );
  return (
    <>
      <Box w="190px">
        <SelectField
          label="Counted from"
          value={anchor.kind in kinds ? anchor.kind : 'none'}
          error={fault}
          onChange={(event) => onChange({ kind: event.target.value as AnchorDraft['kind'] })}
        >
          {Object.entries(kinds).map(([kind, says]) => (
            <option key={kind} value={kind}>
              {says}
            </option>
          ))}
        </SelectField>
      </Box>
      {anchor.kind === 'day' && day('Day', 'day')}
      {anchor.kind === 'days' && (
        <>
          {day('First day', 'day')}
          {day('Second day', 'second')}
        </>
      )}
      {anchor.kind === 'weekday' && weekday}
      {anchor.kind === 'nth' && (
        <>
          <Box w="100px">
            <SelectField
              label="Which"
              value={anchor.nth}
              onChange={(event) => onChange({ nth: event.target.value as AnchorDraft['nth'] })}
            >
              {['first', 'second', 'third', 'fourth'].map((word, i) => (
                <option key={word} value={i + 1}>
                  {word}
                </option>
              ))}
              <option value="last">last</option>
            </SelectField>
          </Box>
          {weekday}
        </>
      )}
      {anchor.kind === 'month' && (
        <>
          {day('Day', 'day')}
          <Box w="140px">
            <SelectField
              label="Month"
              value={anchor.month}
              onChange={(event) => onChange({ month: event.target.value })}
            >
              {MONTHS.map((name, i) => (
                <option key={name} value={i + 1}>
                  {name}
                </option>
              ))}
            </SelectField>
          </Box>
        </>
      )}
    </>
  );
}
