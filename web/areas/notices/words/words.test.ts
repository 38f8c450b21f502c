import { expect, test } from 'vitest';
import { LETTER_EVENTS, type LetterEvent } from '../../../../core/letters/events.ts';
import { piecesOf } from '../../../../core/letters/template.ts';
import { letterWords } from '../../../../core/letters/wordsOf.ts';
import { PAGE_LANGUAGES, type PageLanguage } from '../../../../core/words/signUp/languages.ts';
import type { LetterWordsView } from '../../../../server/notices/wordsMessages.ts';
import { conditionsOf, docOf, linesOf, sayCondition } from './wordsDoc.ts';
import { draftOf, faultsOfDraft, fieldOfPointer, valueOf, withOurs } from './wordsDraft.ts';

const EVENTS = Object.keys(LETTER_EVENTS) as LetterEvent[];
const LANGUAGES = Object.keys(PAGE_LANGUAGES) as PageLanguage[];

const viewOf = (event: LetterEvent, language: PageLanguage = 'en'): LetterWordsView => ({
  ...{ event, language, says: '', standard: letterWords(language).letters[event], letter: null },
  ...{ added: [], byRate: [], changedIn: [], version: '', changedBy: '', changedAt: '' },
});

test('every letter of every language goes into the editor and comes out as it was', () => {
  for (const event of EVENTS)
    for (const language of LANGUAGES) {
      const view = viewOf(event, language);
      const { subject, paragraphs } = view.standard;
      expect(linesOf(docOf([subject, ...paragraphs])), `${event} ${language}`).toEqual([
        subject,
        ...paragraphs,
      ]);
      // Opened and left alone it is none of their own, with nothing wrong in it.
      expect(valueOf(draftOf(view), view).letter).toBeNull();
      expect([...faultsOfDraft(valueOf(draftOf(view), view), view)]).toEqual([]);
      for (const piece of paragraphs.flatMap(piecesOf))
        if (piece.when) expect(sayCondition(event, JSON.stringify(piece.when))).toMatch(/^(Only if|Unless)/);
    }
});

test('lines within a paragraph, and what is no template, are kept as they were typed', () => {
  const lines = ['One\ntwo {{ plan }}\n{% if amount %}three\nfour{% endif %}', 'not {{ closed', ''];
  expect(linesOf(docOf(lines))).toEqual(lines);
  expect(linesOf(docOf([]))).toEqual(['']);
});

test('the conditions of a letter are those of its own fields and cases', () => {
  const says = conditionsOf('mandate request').map((one) => one.says);
  expect(says).toContain('Only if: it is a reminder');
  expect(says).toContain('Unless: it is a reminder');
  expect(says).toContain('Only if there is no: what is open already');
  expect(new Set(says).size).toBe(says.length);
});

test('what is wrong stands at its field; ours put back keeps what was added', () => {
  const view = viewOf('payment declined');
  const draft = {
    ...draftOf(view),
    ...{ subject: [''], paragraphs: ['{{ nothing }}'], link: ' ', added: ['{% if x %}'] },
    byRate: [{ rateId: '7', rate: 'Yard', added: ['{{ policy }}'] }],
  };
  const value = valueOf(draft, view);
  expect([...faultsOfDraft(value, view).keys()]).toEqual([
    'subject',
    'link',
    'paragraphs',
    'added',
    'rate 7',
  ]);
  expect(
    ['/letter/paragraphs/0', '/letter/subject', '/added/3', '/byRate/0/added/1', '/version'].map((pointer) =>
      fieldOfPointer(pointer, draft),
    ),
  ).toEqual(['paragraphs', 'subject', 'added', 'rate 7', 'version']);
  const ours = valueOf(withOurs(draft, view), view);
  expect([ours.letter, ours.added]).toEqual([null, ['{% if x %}']]);
});
