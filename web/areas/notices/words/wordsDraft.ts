import { factsOf } from '../../../../core/letters/events.ts';
import { faultsOfWords } from '../../../../core/letters/template.ts';
import type { LetterWordsDraft, LetterWordsView } from '../../../../server/notices/wordsMessages.ts';

/** The words of a letter as they are being written. */
export interface WordsDraft {
  readonly subject: readonly string[];
  readonly paragraphs: readonly string[];
  readonly link: string;
  readonly added: readonly string[];
  readonly byRate: readonly {
    readonly rateId: string;
    readonly rate: string;
    readonly added: readonly string[];
  }[];
}

/** What the form begins with: the business's own words, or ours. */
export function draftOf(view: LetterWordsView): WordsDraft {
  const { subject, paragraphs, link = '' } = view.letter ?? view.standard;
  return {
    ...{ subject: [subject], paragraphs, added: view.added, byRate: view.byRate },
    link: link || (view.standard.link ?? ''),
  };
}

/** The same with our letter; what is added to it stays. */
export function withOurs(draft: WordsDraft, { standard }: LetterWordsView): WordsDraft {
  const { subject, paragraphs, link = '' } = standard;
  return { ...draft, subject: [subject], paragraphs, link };
}

/** What is sent: a letter that is as ours is none of their own. */
export function valueOf(draft: WordsDraft, { standard, language, event }: LetterWordsView): LetterWordsDraft {
  const filled = (lines: readonly string[]) => lines.map((line) => line.trim()).filter((line) => line !== '');
  const link = draft.link.trim();
  const letter = {
    subject: draft.subject.join(' ').trim(),
    paragraphs: filled(draft.paragraphs),
    ...(factsOf(event).link ? { link } : {}),
  };
  const ours = {
    subject: standard.subject,
    paragraphs: filled(standard.paragraphs),
    ...(factsOf(event).link ? { link: standard.link ?? '' } : {}),
  };
  return {
    language,
    letter: JSON.stringify(letter) === JSON.stringify(ours) ? null : letter,
    added: filled(draft.added),
    byRate: draft.byRate.map(({ rateId, added }) => ({ rateId, added: filled(added) })),
  };
}

/** What is wrong with it, by field, before it is sent; the server looks again. */
export function faultsOfDraft(
  value: LetterWordsDraft,
  { event, standard }: LetterWordsView,
): Map<string, string> {
  const faults = new Map<string, string>();
  const note = (field: string, says: string) => faults.has(field) || faults.set(field, says);
  const { subject, paragraphs, link } = value.letter ?? standard;
  if (subject === '') note('subject', 'Give a subject.');
  if (paragraphs.length === 0) note('paragraphs', 'Write one paragraph at least.');
  if (value.letter && factsOf(event).link && link === '') note('link', 'Say where the link leads.');
  for (const { at, says } of faultsOfWords(event, { subject, paragraphs: [...paragraphs] }))
    note(at === 'subject' ? 'subject' : 'paragraphs', says);
  for (const { says } of faultsOfWords(event, { paragraphs: [...value.added] })) note('added', says);
  for (const one of value.byRate)
    for (const { says } of faultsOfWords(event, { paragraphs: [...one.added] }))
      note(`rate ${one.rateId}`, says);
  return faults;
}

/** The field of a fault that the server names by a pointer. */
export function fieldOfPointer(pointer: string, { byRate }: WordsDraft): string {
  const rate = /^\/byRate\/(\d+)/.exec(pointer);
  if (rate) return `rate ${byRate[Number(rate[1])]?.rateId ?? ''}`;
  if (pointer.startsWith('/added')) return 'added';
  return pointer.startsWith('/letter/') ? (pointer.split('/')[2] ?? '') : pointer.slice(1);
}
