import { factsOf, fieldsOf, type LetterEvent, type LetterField } from './events.ts';
import type { LetterTemplate } from './words.ts';

/*
 * The words of letters are Liquid, of which they use fields and plain conditions alone, never one inside of another: so much can be
 * written by hand as well as in an editor, and be checked to the end before it is stored.
 */

/** When a part of a letter is written: where a field holds something, or holds nothing; in a case of the event, or in every other. */
export type When =
  | { readonly field: LetterField; readonly is: 'filled' | 'empty' }
  | { readonly how: string; readonly is: 'so' | 'not so' };

/** A piece of a paragraph: some text, or a field. */
export type Piece = ({ readonly text: string } | { readonly field: string }) & { readonly when?: When };

/** What is wrong with the words of a letter, in plain words. */
export class TemplateFault extends Error {}

const MARK = /\{\{([\s\S]*?)\}\}|\{%-?([\s\S]*?)-?%\}/g;

/**
 * The pieces of a line of a template.
 * @throws {@link TemplateFault} where it is more than fields and plain conditions, or does not come to an end
 */
export function piecesOf(line: string): Piece[] {
  const pieces: Piece[] = [];
  let when: When | undefined;
  let ends = '';
  let from = 0;
  const text = (until: number) => {
    const said = line.slice(from, until);
    if (/\{\{|\{%|%\}|\}\}/.test(said))
      throw new TemplateFault(`There is a bracket that does not close: “${said.trim().slice(0, 60)}”.`);
    if (said !== '') pieces.push({ text: said, ...(when ? { when } : {}) });
  };
  for (const match of line.matchAll(MARK)) {
    text(match.index);
    from = match.index + match[0].length;
    const [, field, tag] = match;
    if (field !== undefined) {
      if (!/^\s*\w+\s*$/.test(field))
        throw new TemplateFault(`“{{${field}}}” is not the name of a field alone.`);
      pieces.push({ field: field.trim(), ...(when ? { when } : {}) });
      continue;
    }
    const said = (tag ?? '').trim();
    if (said === 'endif' || said === 'endunless') {
      if (ends !== said) throw new TemplateFault(`“{% ${said} %}” ends nothing that was begun.`);
      when = undefined;
      ends = '';
      continue;
    }
    if (when) throw new TemplateFault('A condition stands inside of another. End the first one before.');
    [when, ends] = conditionOf(said);
  }
  text(line.length);
  if (when) throw new TemplateFault(`A condition does not end: “{% ${ends} %}” is missing.`);
  return pieces;
}

function conditionOf(said: string): [When, string] {
  const how = /^if\s+how\s*(==|!=)\s*"([^"]*)"$/.exec(said);
  if (how) return [{ how: how[2] ?? '', is: how[1] === '==' ? 'so' : 'not so' }, 'endif'];
  const filled = /^(if|unless)\s+(\w+)$/.exec(said);
  if (filled?.[2] && filled[2] !== 'how')
    return [
      { field: filled[2] as LetterField, is: filled[1] === 'if' ? 'filled' : 'empty' },
      filled[1] === 'if' ? 'endif' : 'endunless',
    ];
  throw new TemplateFault(
    `“{% ${said} %}” is not a condition that letters have. There are {% if field %}, {% unless field %} and {% if how == "…" %}.`,
  );
}

/** A line of a template of its pieces: the other way round, with neighbours of one condition under one. */
export function lineOf(pieces: readonly Piece[]): string {
  let line = '';
  let open: When | undefined;
  const close = () => {
    if (open) line += 'field' in open && open.is === 'empty' ? '{% endunless %}' : '{% endif %}';
    open = undefined;
  };
  for (const piece of pieces) {
    if (JSON.stringify(piece.when) !== JSON.stringify(open)) {
      close();
      if (piece.when) line += opening(piece.when);
      open = piece.when;
    }
    line += 'text' in piece ? piece.text : `{{ ${piece.field} }}`;
  }
  close();
  return line;
}

function opening(when: When): string {
  if ('how' in when) return `{% if how ${when.is === 'so' ? '==' : '!='} "${when.how}" %}`;
  return when.is === 'filled' ? `{% if ${when.field} %}` : `{% unless ${when.field} %}`;
}

/** Something wrong in the words of a letter: in the subject, in a paragraph from 0, or in what the link says. */
export interface WordsFault {
  readonly at: 'subject' | 'link' | number;
  readonly says: string;
}

/** What is wrong with the words of an event's letter: a field or a case that it has not, or a template that would break. */
export function faultsOfWords(
  event: LetterEvent,
  { subject, paragraphs, link }: Partial<LetterTemplate>,
): WordsFault[] {
  const fields = fieldsOf(event);
  const cases = factsOf(event).how ?? {};
  const faults: WordsFault[] = [];
  const check = (line: string, at: WordsFault['at']) => {
    try {
      for (const { when, ...piece } of piecesOf(line)) {
        if ('field' in piece && !Object.hasOwn(fields, piece.field))
          faults.push({ at, says: noField(piece.field) });
        if (when && 'field' in when && !Object.hasOwn(fields, when.field))
          faults.push({ at, says: noField(when.field) });
        if (when && 'how' in when && !Object.hasOwn(cases, when.how))
          faults.push({ at, says: `There is no case “${when.how}” in this letter.` });
      }
    } catch (fault) {
      if (!(fault instanceof TemplateFault)) throw fault;
      faults.push({ at, says: fault.message });
    }
  };
  if (subject !== undefined) check(subject, 'subject');
  paragraphs?.forEach(check);
  if (link !== undefined && /[{}]/.test(link))
    faults.push({ at: 'link', says: 'The link has plain words alone.' });
  return faults;
}

const noField = (name: string) => `There is no field “${name}” in this letter.`;
