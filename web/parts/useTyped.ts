import { useState, type ChangeEvent } from 'react';
import type { Reading } from '../../core/typed/reading.ts';
import type { FieldChange } from './TextField.tsx';

/**
 * Stands before what a field could not read, so that no calculation takes it for a value: '30.00' typed where decimals
 * follow a comma is not thirty. It is invisible and never stored.
 */
const UNREAD = '\u2063';

/** Whether a field gave something that it could not read. */
export const isUnread = (value: string) => value.startsWith(UNREAD);

interface Props {
  /** As it is stored, or what could not be read. */
  readonly value: string;
  readonly onChange: FieldChange;
  readonly read: (text: string) => Reading;
  readonly print: (value: string) => string;
}

/**
 * A field that people type in their own manner: it gives on what is stored, shows what was typed while it is being
 * typed, and prints what was understood when it is left.
 */
export function useTyped({ value, onChange, read, print }: Props) {
  const [typed, setTyped] = useState<{ readonly text: string; readonly gave: string } | null>(null);
  const [left, setLeft] = useState(false);
  const isOurs = typed !== null && typed.gave === value;
  const text = isOurs ? typed.text : isUnread(value) ? value.slice(1) : print(value);
  const reading = text.trim() === '' ? null : read(text);
  return {
    /** What the typed text is understood as; null where that is what stands there, or nothing. */
    understood: isOurs && reading?.ok && print(reading.value) !== text ? print(reading.value) : null,
    /** Why it could not be read, once the field was left. */
    says: left && reading !== null && !reading.ok ? reading.says : undefined,
    bind: {
      value: text,
      onChange: ({ target }: ChangeEvent<HTMLInputElement>) => {
        const now = target.value.trim() === '' ? null : read(target.value);
        const gave = now === null ? '' : now.ok ? now.value : `${UNREAD}${target.value}`;
        setTyped({ text: target.value, gave });
        onChange({ target: { value: gave } });
      },
      onBlur: () => {
        setLeft(true);
        if (reading?.ok) setTyped(null);
      },
    },
  };
}
