import { Box, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import type { RetryManner } from '../../../../core/recovery/ladder.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';

/** When retries are made: pay-days, working days, hours. */
export function RetryTimes({
  manner,
  faultAt,
  onChange,
}: {
  readonly manner: RetryManner;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<RetryManner>) => void;
}) {
  const under = (name: keyof RetryManner) => {
    const listed = [0, 1, 2, 3, 4, 5].map((i) => faultAt(`/policy/manner/${name}/${i}`)).find(Boolean);
    return faultAt(`/policy/manner/${name}`) ?? listed;
  };
  return (
    <Flex direction="column" gap="3">
      <Flex gap="4" wrap="wrap" align="flex-start">
        <NumbersField
          label="Pay-days of the month"
          hint="Such as 1, 15, 25, 31: the last day of a month that is shorter. None: no pay-day is waited for."
          w="270px"
          field="/policy/manner/payDays"
          value={manner.payDays}
          error={under('payDays')}
          onChange={(payDays) => onChange({ payDays })}
        />
        {manner.payDays.length > 0 && (
          <QuantityField
            label="Waited for within, days"
            w="180px"
            least={1}
            most={15}
            field="/policy/manner/payDayWithin"
            value={String(manner.payDayWithin)}
            error={under('payDayWithin')}
            onChange={(event) => onChange({ payDayWithin: Number(event.target.value) })}
          />
        )}
      </Flex>
      <TickField
        label="Try cards on working days alone (by Setup, Calendar)"
        checked={manner.workingDays}
        onChange={(workingDays) => onChange({ workingDays })}
      />
      <Flex gap="4" wrap="wrap" align="flex-start">
        <QuantityField
          label="Not before this hour of the day"
          w="230px"
          most={23}
          field="/policy/manner/fromHour"
          value={String(manner.fromHour)}
          error={under('fromHour')}
          hint="0 to 23; a practice clock knows no hours."
          onChange={(event) => onChange({ fromHour: Number(event.target.value) })}
        />
        <NumbersField
          label="A bank that is away, again after hours"
          w="270px"
          hint="Such as 2, 8. In practice once, on the next day."
          field="/policy/manner/soonHours"
          value={manner.soonHours}
          error={under('soonHours')}
          onChange={(soonHours) => onChange({ soonHours })}
        />
      </Flex>
    </Flex>
  );
}

/** Whole numbers in one field, with commas between. */
function NumbersField({
  value,
  onChange,
  error,
  ...field
}: {
  readonly label: string;
  readonly hint: string;
  readonly w: string;
  readonly field: string;
  readonly value: readonly number[];
  readonly error: string | undefined;
  readonly onChange: (numbers: number[]) => void;
}) {
  const printed = value.join(', ');
  const [typed, setTyped] = useState(printed);
  const read = (text: string) => text.split(/[\s,;]+/).filter(Boolean);
  const isGood = read(typed).every((part) => /^\d{1,3}$/.test(part));
  // What was set from elsewhere is shown; what is being typed stays as it is typed.
  const shown = isGood && read(typed).map(Number).join(', ') !== printed ? printed : typed;
  return (
    <Box w={field.w}>
      <TextField
        {...field}
        w="full"
        maxLength={60}
        value={shown}
        error={isGood ? error : 'Write whole numbers with commas between.'}
        onChange={(event) => {
          const text = event.target.value;
          setTyped(text);
          const parts = read(text);
          if (parts.every((part) => /^\d{1,3}$/.test(part))) onChange(parts.map(Number));
        }}
      />
    </Box>
  );
}
