import { Box, Flex, Text } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import type { PublicPage, SignUpPageInput } from '../../../server/signUp/messages.ts';
import { post, Problem } from '../../api/client.ts';

/** The widths at which a page is looked at, in pixels. */
const WIDTHS = { Phone: 390, Tablet: 820, Desktop: 1280 } as const;
type Width = keyof typeof WIDTHS;
/** So long after the last letter a page that is being written is drawn anew. */
const WAIT_MS = 400;

interface Frame {
  /** How wide it may be on this page. */
  readonly room: number;
  readonly height: number;
  readonly title: string;
  readonly src: string;
  readonly frameRef?: React.Ref<HTMLIFrameElement>;
}

/** A page as it is on a telephone, a tablet or a desk, drawn as large as there is room. */
export function FrameAtWidth({ room, height, title, src, frameRef }: Frame) {
  const [width, setWidth] = useState<Width>('Phone');
  const scale = Math.min(1, room / WIDTHS[width]);
  return (
    <Box>
      <Flex role="group" aria-label="Width" gap="3" mb="2">
        {(Object.keys(WIDTHS) as Width[]).map((name) => (
          <label key={name}>
            <input
              type="radio"
              name={`width of ${title}`}
              checked={width === name}
              onChange={() => setWidth(name)}
            />{' '}
            {name}
          </label>
        ))}
      </Flex>
      <Box
        borderWidth="1px"
        borderColor="lines"
        bg="white"
        overflow="hidden"
        style={{ width: WIDTHS[width] * scale, height }}
      >
        <iframe
          ref={frameRef}
          title={title}
          src={src}
          style={{
            width: WIDTHS[width],
            height: height / scale,
            border: 0,
            transform: `scale(${scale})`,
            transformOrigin: '0 0',
          }}
        />
      </Box>
    </Box>
  );
}

/** A page that is being written, as customers would see it now. */
export function PreviewFrame({
  value,
  language,
}: {
  readonly value: SignUpPageInput | null;
  readonly language: string;
}) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [isReady, setReady] = useState(false);
  const [says, setSays] = useState('');
  const asked = value === null ? '' : JSON.stringify(value);
  useEffect(() => {
    const listen = (event: MessageEvent<{ almanac?: string }>) => {
      if (event.source === frame.current?.contentWindow && event.data.almanac === 'ready') setReady(true);
    };
    window.addEventListener('message', listen);
    return () => window.removeEventListener('message', listen);
  }, []);
  useEffect(() => {
    if (!isReady || asked === '') return;
    const draft = JSON.parse(asked) as SignUpPageInput;
    const timer = setTimeout(() => {
      post<PublicPage>('/api/sign-up-pages/preview', { value: draft, language }).then(
        (page) => {
          setSays('');
          frame.current?.contentWindow?.postMessage({ almanac: 'preview', page, draft }, location.origin);
        },
        (error: unknown) => setSays(error instanceof Problem ? error.message : ''),
      );
    }, WAIT_MS);
    return () => clearTimeout(timer);
  }, [asked, isReady, language]);
  return (
    <>
      <FrameAtWidth frameRef={frame} room={294} height={460} title="The page" src="/join/preview" />
      <Text color="muted" fontSize="13px" mt="1">
        {says ||
          (value === null
            ? 'It is drawn anew once nothing is missing.'
            : 'As customers see it; nobody joins here.')}
      </Text>
    </>
  );
}
