import { Box, Text } from '@chakra-ui/react';
import { lazy, Suspense, useId, useState } from 'react';
import { ShownText } from './ShownText.tsx';

const load = () => import('./FormattedEditor.tsx');
const FormattedEditor = lazy(load);

interface Props {
  readonly label: string;
  readonly value: string;
  readonly error?: string | undefined;
  readonly onChange: (html: string) => void;
}

/**
 * A text with paragraphs, headings, lists, stress, links and pictures, as it will be read. It is large, what it is written
 * with: that is loaded as soon as somebody goes there.
 */
export function FormattedText({ label, value, error, onChange }: Props) {
  const labelId = useId();
  const [isWritten, setWritten] = useState(false);
  const resting = (
    <Box
      role="textbox"
      aria-multiline
      aria-labelledby={labelId}
      tabIndex={0}
      cursor="text"
      minH="118px"
      px="10px"
      py="8px"
      onPointerEnter={() => void load()}
      onFocus={() => setWritten(true)}
    >
      {value === '' ? <Text color="muted">Nothing yet: write here.</Text> : <ShownText html={value} />}
    </Box>
  );
  return (
    <Box w="full">
      <Text id={labelId} fontWeight="500" mb="1">
        {label}
      </Text>
      <Box bg="page" borderWidth="1px" borderColor={error ? 'border.error' : 'border'} borderRadius="md">
        {isWritten ? (
          <Suspense fallback={resting}>
            <FormattedEditor labelId={labelId} value={value} onChange={onChange} />
          </Suspense>
        ) : (
          resting
        )}
      </Box>
      {error && (
        <Text role="alert" color="fg.error" fontSize="13px">
          {error}
        </Text>
      )}
    </Box>
  );
}
