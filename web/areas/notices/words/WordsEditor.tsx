import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react';
import { EditorContent, useEditor, useEditorState, type Editor } from '@tiptap/react';
import { useId, useMemo } from 'react';
import { fieldsOf, type LetterEvent } from '../../../../core/letters/events.ts';
import { conditionsOf, docOf, FIELD, linesOf, ONLY_IF, sayCondition } from './wordsDoc.ts';
import { wordsExtensions } from './wordsExtensions.ts';

interface Props {
  readonly label: string;
  /** Its name in the form: what a thing that is wrong leads to. */
  readonly field: string;
  readonly event: LetterEvent;
  /** Lines of a template; what it begins with. Give another `key` to begin with others. */
  readonly lines: readonly string[];
  readonly isOneLine?: boolean;
  readonly readOnly?: boolean;
  readonly error?: string | undefined;
  readonly hint?: string;
  readonly onChange: (lines: readonly string[]) => void;
}

const LOOK = {
  '& .words': { minHeight: '36px', padding: '7px 10px', outline: 'none', lineHeight: '1.7' },
  '& .words p + p': { marginTop: '8px' },
  '& .words .field': {
    background: 'var(--chakra-colors-kelp-muted)',
    borderRadius: '3px',
    padding: '1px 5px',
    whiteSpace: 'nowrap',
  },
  '& .words .field.ProseMirror-selectednode': { outline: '2px solid var(--chakra-colors-kelp-solid)' },
  '& .words .only-if': { borderBottom: '2px dotted var(--chakra-colors-trial)' },
};

/** Words of a letter as they are written: fields stand in them by what they hold, conditions as a dotted line. */
export function WordsEditor(props: Props) {
  const { label, field, event, lines, isOneLine = false, readOnly = false, error, hint, onChange } = props;
  const labelId = useId();
  const saysId = useId();
  const extensions = useMemo(() => wordsExtensions(event, isOneLine), [event, isOneLine]);
  const editor = useEditor({
    extensions,
    content: docOf(lines),
    editable: !readOnly,
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-multiline': String(!isOneLine),
        'aria-labelledby': labelId,
        'aria-describedby': saysId,
        class: 'words',
      },
    },
    onUpdate: ({ editor: now }) => onChange(linesOf(now.getJSON())),
  });
  return (
    <Box data-field={field} mb="4">
      <Text id={labelId} fontWeight="500" mb="1">
        {label}
      </Text>
      <Box
        borderWidth="1px"
        borderColor={error === undefined ? 'lines' : 'declined'}
        borderRadius="md"
        bg="page"
        _focusWithin={{ outline: '2px solid', outlineColor: 'kelp.solid', outlineOffset: '-1px' }}
        css={LOOK}
      >
        {!readOnly && <Tools editor={editor} event={event} label={label} />}
        <EditorContent editor={editor} />
      </Box>
      <Text
        id={saysId}
        fontSize="13px"
        mt="1"
        {...(error === undefined ? { color: 'muted' } : { role: 'alert', color: 'declined' })}
      >
        {error ?? hint}
      </Text>
    </Box>
  );
}

function Tools(props: { readonly editor: Editor; readonly event: LetterEvent; readonly label: string }) {
  const { editor, event, label } = props;
  const on = useEditorState({
    editor,
    selector: ({ editor: now }) => ({
      when: now.isActive(ONLY_IF) ? String(now.getAttributes(ONLY_IF).when) : '',
      nothing: now.state.selection.empty,
    }),
  });
  const conditions = conditionsOf(event);
  const put = (code: string) => {
    const chain = editor.chain().focus();
    // A condition is changed as a whole, wherever in it one stands.
    if (on.when !== '') chain.extendMarkRange(ONLY_IF);
    if (code === '') chain.unsetMark(ONLY_IF).run();
    else chain.setMark(ONLY_IF, { when: code }).run();
  };
  return (
    <Flex
      role="toolbar"
      aria-label={`Fields and conditions: ${label}`}
      gap="2"
      p="1"
      borderBottomWidth="1px"
      borderColor="lines"
      wrap="wrap"
    >
      <NativeSelect.Root size="xs" w="210px">
        <NativeSelect.Field
          aria-label={`Add a field: ${label}`}
          value=""
          onChange={({ target }) => {
            if (target.value !== '')
              editor
                .chain()
                .focus()
                .insertContent({ type: FIELD, attrs: { name: target.value } })
                .run();
          }}
        >
          <option value="">Add a field …</option>
          {Object.entries(fieldsOf(event)).map(([name, says]) => (
            <option key={name} value={name}>
              {says}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <NativeSelect.Root size="xs" w="260px" disabled={on.nothing && on.when === ''}>
        <NativeSelect.Field
          aria-label={`When the chosen words are written: ${label}`}
          title={on.when === '' ? 'Choose words in the text first' : sayCondition(event, on.when)}
          value={on.when}
          onChange={({ target }) => put(target.value)}
        >
          <option value="">{on.nothing && on.when === '' ? 'Choose words for a condition' : 'Always'}</option>
          {conditions.map(({ code, says }) => (
            <option key={code} value={code}>
              {says}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Flex>
  );
}
