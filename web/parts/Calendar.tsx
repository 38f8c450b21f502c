import { DatePicker, parseDate } from '@chakra-ui/react';

interface Props {
  readonly locale: string;
  readonly value: string | null;
  readonly shown: string;
  readonly min: string | undefined;
  readonly max: string | undefined;
  readonly onPick: (iso: string) => void;
}

/** A month to pick a day from; loaded when it is first opened. */
export default function Calendar({ locale, value, shown, min, max, onPick }: Props) {
  return (
    <DatePicker.Root
      inline
      locale={locale}
      timeZone="UTC"
      startOfWeek={1}
      fixedWeeks
      colorPalette="kelp"
      defaultValue={value === null ? [] : [parseDate(value)]}
      defaultFocusedValue={parseDate(shown)}
      {...(min ? { min: parseDate(min) } : {})}
      {...(max ? { max: parseDate(max) } : {})}
      onValueChange={({ value: picked }) => picked[0] && onPick(picked[0].toString())}
    >
      <DatePicker.Content unstyled>
        <DatePicker.View view="day">
          <DatePicker.Header />
          <DatePicker.DayTable />
        </DatePicker.View>
        <DatePicker.View view="month">
          <DatePicker.Header />
          <DatePicker.MonthTable />
        </DatePicker.View>
        <DatePicker.View view="year">
          <DatePicker.Header />
          <DatePicker.YearTable />
        </DatePicker.View>
      </DatePicker.Content>
    </DatePicker.Root>
  );
}
