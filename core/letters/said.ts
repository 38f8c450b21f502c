import type { SayableTerms } from '../words/sayRate.ts';
import type { Sentences } from './words.ts';

/**
 * What a field of a letter holds before its language is known. A text stands as it is: a name, a number, what staff wrote.
 * Everything else is written out in the words and by the customs of whoever reads it.
 */
export type Said =
  | string
  | Money
  | { readonly date: string }
  | { readonly from: string; readonly to: string }
  | SaidCard
  | { readonly declined: string }
  | { readonly rate: SayableTerms }
  | { readonly all: readonly Said[]; readonly joined: 'and' | ',' | ' ' }
  | Sentence;

/** Whole minor units. */
export interface Money {
  readonly minor: bigint;
  readonly currency: string;
}

/** What is charged, or was; `possessive`: as it belongs to the reader, to follow a preposition. */
export interface SaidCard {
  readonly network: string;
  readonly lastFour: string;
  readonly possessive?: boolean;
}

/** A sentence by its name in the file of a language, with what it tells of. */
export type Sentence = {
  [Name in keyof Sentences]: {
    readonly sentence: Name;
    readonly of: { readonly [Key in keyof Parameters<Sentences[Name]>[0]]: Said };
  };
}[keyof Sentences];

/** A sentence by its name. */
export function sentence<Name extends keyof Sentences>(
  name: Name,
  of: { readonly [Key in keyof Parameters<Sentences[Name]>[0]]: Said },
): Sentence {
  return { sentence: name, of } as Sentence;
}

export const money = (minor: bigint, currency: string): Money => ({ minor, currency });
export const onDate = (date: string): Said => ({ date });
