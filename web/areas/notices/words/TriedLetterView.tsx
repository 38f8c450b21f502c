import { Box, Flex, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { TriedLetter } from '../../../../server/notices/wordsMessages.ts';
import { Fold } from '../../../parts/Fold.tsx';

const WIDTHS = { Phone: 390, Screen: 680 } as const;
type Shown = keyof typeof WIDTHS | 'Plain text';
const ROOM = 294;
const HEIGHT = 420;

/** A letter as it will be read: as wide as a phone or a screen, or as plain text; and what its fields hold. */
export function TriedLetterView({ letter }: { readonly letter: TriedLetter }) {
  const [shown, setShown] = useState<Shown>('Phone');
  const width = shown === 'Plain text' ? ROOM : WIDTHS[shown];
  const scale = Math.min(1, ROOM / width);
  return (
    <Box>
      <Text mb="1" overflowWrap="anywhere">
        <strong>{letter.subject}</strong>
      </Text>
      <Flex role="group" aria-label="Shown as" gap="3" mb="2">
        {([...Object.keys(WIDTHS), 'Plain text'] as Shown[]).map((name) => (
          <label key={name}>
            <input
              type="radio"
              name="letter shown as"
              checked={shown === name}
              onChange={() => setShown(name)}
            />{' '}
            {name}
          </label>
        ))}
      </Flex>
      {shown === 'Plain text' ? (
        <Box
          as="pre"
          tabIndex={0}
          aria-label="Plain text"
          borderWidth="1px"
          borderColor="lines"
          bg="page"
          p="3"
          h={`${HEIGHT}px`}
          overflow="auto"
          fontSize="12px"
          whiteSpace="pre-wrap"
          overflowWrap="anywhere"
        >
          {letter.plain}
        </Box>
      ) : (
        <Box borderWidth="1px" borderColor="lines" overflow="hidden" style={{ height: HEIGHT }}>
          <iframe
            title={`Letter: ${letter.subject}`}
            sandbox=""
            srcDoc={letter.html}
            style={{
              width,
              height: HEIGHT / scale,
              border: 0,
              display: 'block',
              background: '#F3F6F4',
              transform: `scale(${scale})`,
              transformOrigin: '0 0',
            }}
          />
        </Box>
      )}
      <Text color="muted" fontSize="13px" mt="1">
        {letter.from}
      </Text>
      {letter.empty.length > 0 && (
        <Text role="status" color="trial" mt="1">
          Empty here: {letter.empty.map((name) => sayOf(letter, name)).join('; ')}.
        </Text>
      )}
      <Box mt="2">
        <Fold title="What the fields hold" holds="">
          <Table.Root size="sm" css={{ '& td, & th': { px: '1', bg: 'transparent' } }}>
            <Table.Body>
              {letter.fields.map(({ name, says, value }) => (
                <Table.Row key={name}>
                  <Table.Cell color="muted">{says}</Table.Cell>
                  <Table.Cell overflowWrap="anywhere">{value === '' ? '(empty)' : value}</Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
        </Fold>
      </Box>
    </Box>
  );
}

const sayOf = ({ fields }: TriedLetter, name: string) =>
  fields.find((one) => one.name === name)?.says.toLowerCase() ?? name;
