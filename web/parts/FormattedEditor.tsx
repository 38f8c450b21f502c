import { Box, Button, Flex, Input, Text } from '@chakra-ui/react';
import Image from '@tiptap/extension-image';
import { EditorContent, useEditor, useEditorState, type Editor } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { Bold, Heading2, ImagePlus, Italic, Link2, List, ListOrdered } from 'lucide-react';
import { useId, useState } from 'react';
import { upload, withQuery, Problem } from '../api/client.ts';
import { FORMATTED } from './ShownText.tsx';

interface Props {
  /** What the text is labelled by. */
  readonly labelId: string;
  readonly value: string;
  readonly onChange: (html: string) => void;
}

const EXTENSIONS = [
  StarterKit.configure({
    heading: { levels: [2, 3] },
    code: false,
    codeBlock: false,
    horizontalRule: false,
    link: { openOnClick: false, protocols: ['http', 'https', 'mailto'] },
  }),
  Image,
];

/** A formatted text as it is written; loaded when somebody begins to. */
export default function FormattedEditor({ labelId, value, onChange }: Props) {
  const editor = useEditor({
    extensions: EXTENSIONS,
    content: value,
    autofocus: 'end',
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-multiline': 'true',
        'aria-labelledby': labelId,
        class: 'formatted',
      },
    },
    onUpdate: ({ editor: now }) => onChange(now.isEmpty ? '' : now.getHTML()),
  });
  return (
    <>
      {editor && <Tools editor={editor} />}
      <Box css={{ '& .formatted': { minHeight: '84px', padding: '8px 10px', ...FORMATTED } }}>
        <EditorContent editor={editor} />
      </Box>
    </>
  );
}

function Tools({ editor }: { readonly editor: Editor }) {
  const [linking, setLinking] = useState<string | null>(null);
  const [says, setSays] = useState('');
  const fileId = useId();
  const on = useEditorState({
    editor,
    selector: ({ editor: now }) => ({
      bold: now.isActive('bold'),
      italic: now.isActive('italic'),
      heading: now.isActive('heading'),
      list: now.isActive('bulletList'),
      numbers: now.isActive('orderedList'),
      link: now.isActive('link'),
    }),
  });
  const does = () => editor.chain().focus();
  const takePicture = async (taken: File | undefined) => {
    if (!taken) return;
    setSays('');
    try {
      const path = withQuery('/api/uploads/picture', { name: taken.name });
      const { address } = await upload<{ address: string }>(path, taken);
      does()
        .setImage({ src: `/pictures/${address}`, alt: taken.name.replace(/\.\w+$/, '') })
        .run();
    } catch (problem) {
      setSays(problem instanceof Problem ? problem.message : 'The picture was not taken.');
    }
  };
  const setLink = () => {
    const href = linking?.trim() ?? '';
    setLinking(null);
    if (href === '') does().unsetLink().run();
    else
      does()
        .setLink({ href: /^[a-z]+:/i.test(href) ? href : `https://${href}` })
        .run();
  };
  const tools = [
    ['Bold', Bold, on.bold, () => does().toggleBold().run()],
    ['Italic', Italic, on.italic, () => does().toggleItalic().run()],
    ['Heading', Heading2, on.heading, () => does().toggleHeading({ level: 2 }).run()],
    ['List', List, on.list, () => does().toggleBulletList().run()],
    ['Numbered list', ListOrdered, on.numbers, () => does().toggleOrderedList().run()],
    ['Link', Link2, on.link, () => setLinking(String(editor.getAttributes('link').href ?? ''))],
    ['Picture', ImagePlus, false, () => document.getElementById(fileId)?.click()],
  ] as const;
  return (
    <Box borderBottomWidth="1px" borderColor="lines" px="1">
      <Flex role="toolbar" aria-label="Formatting" gap="1" py="1">
        {tools.map(([name, Icon, pressed, act]) => (
          <Button
            key={name}
            size="2xs"
            variant={pressed ? 'subtle' : 'ghost'}
            aria-label={name}
            title={name}
            aria-pressed={name === 'Link' || name === 'Picture' ? undefined : pressed}
            onClick={act}
          >
            <Icon size={14} aria-hidden />
          </Button>
        ))}
        <input
          id={fileId}
          type="file"
          hidden
          aria-label="Picture for the text"
          accept="image/png,image/jpeg,image/webp,image/svg+xml"
          onChange={(event) => void takePicture(event.target.files?.[0])}
        />
      </Flex>
      {linking !== null && (
        <Flex gap="2" pb="1">
          <Input
            size="xs"
            autoFocus
            aria-label="Address of the link"
            placeholder="https://… ; empty takes the link out"
            value={linking}
            onChange={(event) => setLinking(event.target.value)}
            onKeyDown={(event) => event.key === 'Enter' && (event.preventDefault(), setLink())}
          />
          <Button size="xs" variant="outline" onClick={setLink}>
            Set
          </Button>
        </Flex>
      )}
      {says !== '' && (
        <Text role="alert" color="declined" fontSize="13px" pb="1">
          {says}
        </Text>
      )}
    </Box>
  );
}
