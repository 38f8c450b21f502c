import type { JSONContent } from '@tiptap/react';
import { factsOf, fieldsOf, type LetterEvent } from '../../../../core/letters/events.ts';
import { lineOf, piecesOf, TemplateFault, type Piece, type When } from '../../../../core/letters/template.ts';

/** Names of the editor's own parts: a field in the text, and the condition that a stretch of it stands under. */
export const FIELD = 'field';
export const ONLY_IF = 'onlyIf';

/** The lines of a template as the editor holds them: a paragraph each. */
export function docOf(lines: readonly string[]): JSONContent {
  const content = (lines.length === 0 ? [''] : lines).map((line) => {
    const inline = piecesOrText(line).flatMap(inlineOf);
    return { type: 'paragraph', ...(inline.length > 0 ? { content: inline } : {}) };
  });
  return { type: 'doc', content };
}

/** What is not a template to its end is shown as it was written, to be mended. */
function piecesOrText(line: string): Piece[] {
  try {
    return piecesOf(line);
  } catch (fault) {
    if (!(fault instanceof TemplateFault)) throw fault;
    return [{ text: line }];
  }
}

function inlineOf(piece: Piece): JSONContent[] {
  const marks = piece.when ? { marks: [{ type: ONLY_IF, attrs: { when: codeOf(piece.when) } }] } : {};
  if ('field' in piece) return [{ type: FIELD, attrs: { name: piece.field }, ...marks }];
  return piece.text
    .split('\n')
    .flatMap((text, i) => [
      ...(i === 0 ? [] : [{ type: 'hardBreak', ...marks }]),
      ...(text === '' ? [] : [{ type: 'text', text, ...marks }]),
    ]);
}

/** What the editor holds as lines of a template. */
export function linesOf(doc: JSONContent): string[] {
  return (doc.content ?? []).map((paragraph) => lineOf((paragraph.content ?? []).map(pieceOf)));
}

function pieceOf({ type, text = '', attrs, marks }: JSONContent): Piece {
  const code = marks?.find((mark) => mark.type === ONLY_IF)?.attrs?.when as string | undefined;
  const when = code === undefined ? {} : { when: whenOf(code) };
  if (type === FIELD) return { field: String(attrs?.name), ...when };
  return { text: type === 'hardBreak' ? '\n' : text, ...when };
}

/** A condition as one text, for an attribute and a choice. */
export const codeOf = (when: When): string => JSON.stringify(when);
export const whenOf = (code: string): When => JSON.parse(code) as When;

/** The conditions that a part of an event's letter can stand under, in words. */
export function conditionsOf(
  event: LetterEvent,
): readonly { readonly code: string; readonly says: string }[] {
  const { how = {}, fields } = factsOf(event);
  return [
    ...Object.entries(how).flatMap(([code, says]) => [
      { code: codeOf({ how: code, is: 'so' }), says: `Only if: ${lower(says)}` },
      { code: codeOf({ how: code, is: 'not so' }), says: `Unless: ${lower(says)}` },
    ]),
    ...(Object.entries(fields) as [keyof typeof fields, string][]).flatMap(([field, says]) => [
      { code: codeOf({ field, is: 'filled' }), says: `Only if there is: ${lower(says)}` },
      { code: codeOf({ field, is: 'empty' }), says: `Only if there is no: ${lower(says)}` },
    ]),
  ];
}

/** What a condition says, where it is one of the event's. */
export function sayCondition(event: LetterEvent, code: string): string {
  return (
    conditionsOf(event).find((one) => one.code === code)?.says ?? 'Under a condition that this letter has not'
  );
}

/** What a field is called in the text. */
export function sayField(event: LetterEvent, name: string): string {
  return Object.entries(fieldsOf(event)).find(([field]) => field === name)?.[1] ?? name;
}

const lower = (text: string) => text.slice(0, 1).toLowerCase() + text.slice(1);
