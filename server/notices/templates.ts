import type { LetterField } from '../../core/letters/events.ts';
import type { Said } from '../../core/letters/said.ts';
import type { LetterTemplate } from '../../core/letters/words.ts';

export type { LetterEvent } from '../../core/letters/events.ts';

/** What a letter tells of, before it is known in which language it is read. */
export type LetterSays = Readonly<Partial<Record<LetterField | 'how', Said>>> & {
  readonly business: string;
  readonly customer: string;
  readonly plan: string;
};

/** The same written out: what stands in the fields of a letter that is kept. */
export type LetterFields = Readonly<Partial<Record<LetterField | 'how', string>>> & {
  readonly business: string;
  readonly customer: string;
  readonly plan: string;
};

/** The words of a letter with what stands around them. */
export interface Template extends LetterTemplate {
  /** How it begins; of the first layout: 'Dear …,'. */
  readonly greeting?: string;
  /** At its foot, where the letter need not be: what the link says by which such letters are stopped. */
  readonly unsubscribe?: string;
}
