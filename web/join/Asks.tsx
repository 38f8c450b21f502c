import { useState, type Ref } from 'react';
import { Controller, type FieldErrors, type UseFormReturn } from 'react-hook-form';
import { readDate } from '../../core/typed/date.ts';
import type { PublicPage } from '../../server/signUp/messages.ts';
import { Area, Field, Select } from './fields.tsx';
import type { Filled } from './filled.ts';
import { useSaying } from './saying.ts';

interface Props {
  readonly form: UseFormReturn<Filled>;
  readonly asks: PublicPage['questions'];
  readonly name: 'answers' | 'questions';
  readonly today: string;
}

/** What a plan or a page asks of whoever joins. */
export function Asks({ form, asks, name, today }: Props) {
  const { words } = useSaying();
  const errors: FieldErrors<Filled> = form.formState.errors;
  return asks.map((ask, i) => {
    const path = `${name}.${i}` as const;
    const { label, kind, choices, required, hint } = ask;
    const around = { label, hint: hint || undefined, optional: !required, error: errors[name]?.[i]?.message };
    const needed = required ? words.needed : false;
    if (kind === 'choice' || kind === 'yes or no')
      return (
        <Select key={label} {...around} {...form.register(path, { required: needed })}>
          <option value="">{words.choose}</option>
          {kind === 'choice' ? (
            choices.map((one) => <option key={one}>{one}</option>)
          ) : (
            <>
              <option value="yes">{words.yes}</option>
              <option value="no">{words.no}</option>
            </>
          )}
        </Select>
      );
    if (kind === 'long text')
      return <Area key={label} {...around} {...form.register(path, { required: needed })} maxLength={1000} />;
    if (kind === 'date')
      return (
        <Controller
          key={label}
          control={form.control}
          name={path}
          rules={{ required: needed, validate: (day) => day === '' || day !== UNREAD || words.needed }}
          render={({ field }) => <Day {...around} {...field} today={today} />}
        />
      );
    return (
      <Field
        key={label}
        {...around}
        {...form.register(path, {
          required: needed,
          ...(kind === 'number'
            ? { pattern: { value: /^-?\d{1,15}(\.\d{1,9})?$/, message: words.badNumber } }
            : {}),
        })}
        inputMode={kind === 'number' ? 'decimal' : undefined}
        maxLength={kind === 'number' ? 30 : 1000}
      />
    );
  });
}

/** What stands for a text that could not be read as a day. */
const UNREAD = '?';

/** A day as people type it; what was understood stands below. */
function Day(props: {
  readonly label: string;
  readonly hint: string | undefined;
  readonly optional: boolean;
  readonly error: string | undefined;
  readonly today: string;
  readonly name: string;
  readonly onChange: (day: string) => void;
  readonly onBlur: () => void;
  readonly ref: Ref<HTMLInputElement>;
}) {
  const { locale, date } = useSaying();
  const { today, onChange, hint, ...field } = props;
  const [typed, setTyped] = useState('');
  const read = typed.trim() === '' ? null : readDate(typed, locale, { today });
  return (
    <Field
      {...field}
      hint={read?.ok ? date(read.value) : hint}
      value={typed}
      maxLength={40}
      onChange={({ target }) => {
        setTyped(target.value);
        const found = readDate(target.value, locale, { today });
        onChange(target.value.trim() === '' ? '' : found.ok ? found.value : UNREAD);
      }}
    />
  );
}
