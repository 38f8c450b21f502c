import { DatePicker, parseDate, Popover, Portal } from '@chakra-ui/react';
import type { RefObject } from 'react';

interface Props {
  readonly locale: string;
  readonly value: string | null;
  readonly shown: string;
  readonly min: string | undefined;
  readonly max: string | undefined;
  readonly onPick: (iso: string) => void;
  readonly open: boolean;
  readonly onClose: () => void;
  /** The field that it belongs to, and the button that opened it. */
  readonly field: RefObject<HTMLElement | null>;
  readonly button: RefObject<HTMLElement | null>;
}

/** A month below a field to pick a day from; loaded when it is first opened. */
export default function Calendar({ open, onClose, field, button, ...month }: Props) {
  return (
    <Popover.Root
      open={open}
      onOpenChange={(to) => !to.open && onClose()}
      positioning={{ getAnchorElement: () => field.current }}
      finalFocusEl={() => button.current}
      // The button closes it by itself.
      persistentElements={[() => button.current]}
      lazyMount
      unmountOnExit
    >
      <Portal>
        <Popover.Positioner>
          <Popover.Content bg="page" w="auto" aria-label="Calendar">
            <Popover.Body p="2">
              <Month {...month} />
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

function Month({
  locale,
  value,
  shown,
  min,
  max,
  onPick,
}: Omit<Props, 'open' | 'onClose' | 'field' | 'button'>) {
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
