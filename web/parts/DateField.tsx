import { Box, IconButton, Input, InputGroup } from '@chakra-ui/react';
import { CalendarDays } from 'lucide-react';
import { lazy, Suspense, useRef, useState, type ReactNode } from 'react';
import { parseDay } from '../../core/dates/day.ts';
import { printDate, readDate } from '../../core/typed/date.ts';
import { useManner } from './manner.ts';
import { LabelledField, type FieldChange, type FieldProps } from './TextField.tsx';
import { Understood } from './Understood.tsx';
import { useTyped } from './useTyped.ts';

const Calendar = lazy(() => import('./Calendar.tsx'));

interface Props extends FieldProps {
  /** `YYYY-MM-DD`; empty: none. */
  readonly value: string;
  readonly onChange: FieldChange;
  readonly min?: string | undefined;
  readonly max?: string | undefined;
  readonly hint?: ReactNode;
  /** Without room for a label: it is read out, what is wrong shows when it is pointed at. */
  readonly isBare?: boolean;
}

/**
 * A date, typed in the business's language and order or picked from a calendar: '3 dec', '+2w' and 'fri' are understood,
 * and what was understood is printed with its weekday.
 */
export function DateField({ value, onChange, min, max, isBare = false, ...props }: Props) {
  const { locale, today } = useManner();
  const [open, setOpen] = useState(false);
  const [wasOpened, setOpened] = useState(false);
  const field = useRef<HTMLDivElement>(null);
  const button = useRef<HTMLButtonElement>(null);
  const { understood, says, bind } = useTyped({
    value,
    onChange,
    read: (text) => readDate(text, locale, { today, min, max }),
    print: (iso) => printDate(iso, locale),
  });
  const error = says ?? props.error;
  const input = (
    <>
      <InputGroup
        ref={field}
        endElement={
          <IconButton
            ref={button}
            variant="ghost"
            size="2xs"
            color="muted"
            disabled={props.disabled ?? false}
            aria-label="Calendar"
            aria-haspopup="dialog"
            aria-expanded={open}
            onClick={() => {
              setOpened(true);
              setOpen(!open);
            }}
          >
            <CalendarDays size={14} aria-hidden />
          </IconButton>
        }
        endElementProps={{ px: '1.5' }}
        endOffset="0px"
      >
        <Input
          size={isBare ? '2xs' : 'sm'}
          bg="page"
          autoComplete="off"
          maxLength={60}
          placeholder={isBare ? '+2w, 3 Dec …' : 'such as 3 Dec or +2w'}
          {...(isBare
            ? {
                'aria-label': props.label,
                'aria-invalid': error !== undefined,
                title: error ?? understood ?? '',
              }
            : {})}
          {...bind}
        />
      </InputGroup>
      {wasOpened && (
        <Suspense fallback={null}>
          <Calendar
            open={open}
            onClose={() => setOpen(false)}
            field={field}
            button={button}
            locale={locale}
            value={parseDay(value) === null ? null : value}
            shown={parseDay(value) === null ? today : value}
            min={min}
            max={max}
            onPick={(iso) => {
              onChange({ target: { value: iso } });
              setOpen(false);
            }}
          />
        </Suspense>
      )}
    </>
  );
  if (isBare) return input;
  return (
    <LabelledField {...props} error={error} hint={props.hint}>
      <Box position="relative" w="full">
        {input}
        <Understood says={understood} />
      </Box>
    </LabelledField>
  );
}
