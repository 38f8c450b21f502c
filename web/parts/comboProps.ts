import type { ReactNode } from 'react';
import type { FieldProps } from './TextField.tsx';

/** One that can be taken. */
export interface Choosable {
  readonly value: string;
  readonly label: string;
  /** A second, quieter part. */
  readonly detail?: string;
  /** What speaks for it, such as a saving. */
  readonly note?: string;
}

export interface ComboProps extends FieldProps {
  /** What was found for what is typed, the best first. */
  readonly items: readonly Choosable[];
  readonly typed: string;
  readonly onTyped: (typed: string) => void;
  readonly onTake: (value: string) => void;
  readonly placeholder?: string;
  /** Said where nothing is found. */
  readonly nothing?: ReactNode;
}
