import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import * as common from '@zxcvbn-ts/language-common';
import * as english from '@zxcvbn-ts/language-en';

/** How hard a password is to guess. */
export interface Strength {
  /** Guesses that it withstands, as a power of ten. */
  readonly guesses: number;
  /** Why it is weak, or empty. */
  readonly warning: string;
}

/** What is looked at of a password: what lies beyond makes it no weaker. */
const LOOKED_AT = 64;

let estimator: ZxcvbnFactory | undefined;

/** Estimates how hard a password is to guess, for somebody who knows some words of its owner. */
export function strengthOf(password: string, known: readonly string[]): Strength {
  estimator ??= new ZxcvbnFactory({
    dictionary: { ...common.dictionary, ...english.dictionary },
    graphs: common.adjacencyGraphs,
    translations: english.translations,
    maxLength: LOOKED_AT,
    l33tMaxSubstitutions: 50,
  });
  const { guessesLog10, feedback } = estimator.check(password.slice(0, LOOKED_AT), [...known]);
  return { guesses: guessesLog10, warning: feedback.warning ?? '' };
}
