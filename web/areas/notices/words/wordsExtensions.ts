import { Extension, Mark, mergeAttributes, Node } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import type { LetterEvent } from '../../../../core/letters/events.ts';
import { FIELD, ONLY_IF, sayCondition, sayField } from './wordsDoc.ts';

/** Plain paragraphs with fields and conditions: a letter has no other form. */
export function wordsExtensions(event: LetterEvent, isOneLine: boolean) {
  const kit = StarterKit.configure({
    ...{ heading: false, blockquote: false, bulletList: false, orderedList: false, listItem: false },
    ...{ listKeymap: false, code: false, codeBlock: false, horizontalRule: false, link: false },
    ...{ bold: false, italic: false, strike: false, underline: false },
  });
  const field = Node.create({
    ...{ name: FIELD, group: 'inline', inline: true, atom: true, selectable: true },
    addAttributes: () => ({
      name: {
        default: '',
        parseHTML: (element: HTMLElement) => element.getAttribute('data-name') ?? '',
        renderHTML: ({ name }: { name: string }) => ({ 'data-name': name }),
      },
    }),
    parseHTML: () => [{ tag: 'span[data-name]' }],
    renderHTML: ({ node, HTMLAttributes }) => {
      const name = String(node.attrs.name);
      const says = sayField(event, name);
      return ['span', mergeAttributes(HTMLAttributes, { class: 'field', title: `{{ ${name} }}` }), says];
    },
    renderText: ({ node }) => `{{ ${String(node.attrs.name)} }}`,
  });
  const onlyIf = Mark.create({
    name: ONLY_IF,
    inclusive: false,
    addAttributes: () => ({
      when: {
        default: '',
        parseHTML: (element: HTMLElement) => element.getAttribute('data-when') ?? '',
        renderHTML: ({ when }: { when: string }) => ({ 'data-when': when }),
      },
    }),
    parseHTML: () => [{ tag: 'span[data-when]' }],
    renderHTML: ({ mark, HTMLAttributes }) => {
      const title = sayCondition(event, String(mark.attrs.when));
      return ['span', mergeAttributes(HTMLAttributes, { class: 'only-if', title }), 0];
    },
  });
  const oneLine = Extension.create({
    name: 'oneLine',
    addKeyboardShortcuts: () => ({ Enter: () => true, 'Shift-Enter': () => true, 'Mod-Enter': () => true }),
  });
  return [kit, field, onlyIf, ...(isOneLine ? [oneLine] : [])];
}
