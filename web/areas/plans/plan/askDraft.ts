import type { Ask } from '../../../../server/plans/choiceMessages.ts';

/** Something that is asked, as it is being typed: its choices one a line. */
export interface AskDraft {
  readonly label: string;
  readonly kind: Ask['kind'];
  readonly choices: string;
  readonly required: boolean;
  readonly hint: string;
}

/** A question before anything of it was typed. */
export const NEW_ASK: AskDraft = { label: '', kind: 'text', choices: '', required: false, hint: '' };

/** What a question stands for: only one of a choice has choices. */
export const askOf = ({ choices, ...ask }: AskDraft): Ask => ({
  ...ask,
  choices:
    ask.kind === 'choice'
      ? choices
          .split('\n')
          .map((one) => one.trim())
          .filter(Boolean)
      : [],
});
