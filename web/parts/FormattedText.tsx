import { Box, Text } from '@chakra-ui/react';
import { lazy, Suspense, useId, useState } from 'react';
import type { FormattedTextProps } from './FormattedEditor.tsx';
import { ShownText } from './ShownText.tsx';

const load = () => import('./FormattedEditor.tsx');
const FormattedEditor = lazy(load);

/**
 * A text with paragraphs, headings, lists, stress, links and pictures, as it will be read. It is large, what it is written
 * with: that is loaded as soon as somebody goes there.
 */
export function FormattedText(props: FormattedTextProps) {
  const [isWritten, setWritten] = useState(false);
  const resting = <Resting {...props} onGo={() => setWritten(true)} />;
  if (!isWritten) return resting;
  return (
    <Suspense fallback={resting}>
      <FormattedEditor {...props} />
    </Suspense>
  );
}

function Resting({ label, value, error, onGo }: FormattedTextProps & { readonly onGo: () => void }) {
  const id = useId();
  return (
    <Box w="full">
      <Text id={id} fontWeight="500" mb="1">
        {label}
      </Text>
      <Box
        role="textbox"
        aria-multiline
        aria-labelledby={id}
        tabIndex={0}
        cursor="text"
        bg="page"
        borderWidth="1px"
        borderColor={error ? 'border.error' : 'border'}
        borderRadius="md"
        minH="118px"
        px="10px"
        py="8px"
        onPointerEnter={() => void load()}
        onFocus={onGo}
      >
        {value === '' ? <Text color="muted">Nothing yet: write here.</Text> : <ShownText html={value} />}
      </Box>
      {error && (
        <Text role="alert" color="fg.error" fontSize="13px">
          {error}
        </Text>
      )}
    </Box>
  );
}
