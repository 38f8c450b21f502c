import { Box, Button, Flex, Link as TextLink, NativeSelect, Text } from '@chakra-ui/react';
import { useRef, useState } from 'react';
import { sayDate } from '../../../core/words/date.ts';
import { FILE_LETTERS, type FileLetters, type FileView } from '../../../server/customers/fileMessages.ts';
import { put, remove, upload, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

const SAID = { tooLarge: 'A document has at most 5 MB.', notTaken: 'The document was not taken.' };

/** The documents kept with a customer: for staff alone, or to go with letters. */
export function Files({
  customerId,
  subscriptionId,
}: {
  readonly customerId: string;
  /** Of one subscription alone. */
  readonly subscriptionId?: string;
}) {
  const path = `/api/customers/${customerId}/files`;
  const { data } = useAnswer<FileView[]>(path);
  const files = data?.filter((one) => subscriptionId === undefined || one.subscriptionId === subscriptionId);
  const [leaving, setLeaving] = useState<string | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const acting = useAct();
  if (!files) return null;
  const keep = (file: File) =>
    acting.act(
      () =>
        upload(
          withQuery(path, { name: file.name, ...(subscriptionId === undefined ? {} : { subscriptionId }) }),
          file,
          SAID,
        ),
      `Kept: ${file.name}.`,
    );
  return (
    <Box as="section" aria-label="Documents" mt="6">
      <Flex gap="3" align="center" mb="2">
        <Text as="h2" fontFamily="heading" fontSize="16px">
          Documents
        </Text>
        <ForWriters>
          <Button size="xs" variant="outline" loading={acting.busy} onClick={() => chooser.current?.click()}>
            Keep a document
          </Button>
          <input
            ref={chooser}
            type="file"
            hidden
            aria-label="A document to keep"
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              event.target.value = '';
              if (file) void keep(file);
            }}
          />
        </ForWriters>
      </Flex>
      {files.length === 0 && (
        <Text color="muted">
          None. A contract, a certificate or a picture can be kept here: at most 5 MB each.
        </Text>
      )}
      {files.map(({ id, name, kind, size, addedOn, addedBy, plan, goesWith }) => (
        <Flex key={id} gap="3" py="1" align="center" borderBottomWidth="1px" borderColor="lines">
          <Box flex="1" minW="0">
            <TextLink href={`${path}/${id}`} download color="kelp.fg" wordBreak="break-word">
              {name}
            </TextLink>
            <Text color="muted" fontSize="13px">
              {kind}, {saySize(size)}, {sayDate(addedOn)}, {addedBy}
              {plan ? `, ${plan}` : ''}
              {goesWith === 'nothing' ? '' : `, ${FILE_LETTERS[goesWith]}`}
            </Text>
          </Box>
          <ForWriters>
            <Box flexShrink={0}>
              <NativeSelect.Root size="sm" w="230px">
                <NativeSelect.Field
                  bg="page"
                  aria-label={`Letters that ${name} goes with`}
                  value={goesWith}
                  onChange={(event) =>
                    void acting.act(
                      () => put(`${path}/${id}`, { goesWith: event.target.value as FileLetters }),
                      `${name} goes ${FILE_LETTERS[event.target.value as FileLetters]}.`,
                    )
                  }
                >
                  {Object.entries(FILE_LETTERS).map(([value, says]) => (
                    <option key={value} value={value}>
                      {says}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Box>
            <Box flexShrink={0}>
              {leaving === id ? (
                <>
                  <Button
                    size="2xs"
                    colorPalette="red"
                    mr="2"
                    onClick={() => void acting.act(() => remove(`${path}/${id}`), `Thrown away: ${name}.`)}
                  >
                    Throw {name} away for good
                  </Button>
                  <Button size="2xs" variant="outline" onClick={() => setLeaving(null)}>
                    Keep it
                  </Button>
                </>
              ) : (
                <Button
                  size="2xs"
                  variant="outline"
                  aria-label={`Throw away ${name}`}
                  onClick={() => setLeaving(id)}
                >
                  Throw away …
                </Button>
              )}
            </Box>
          </ForWriters>
        </Flex>
      ))}
      <Outcome of={acting} />
    </Box>
  );
}

/** '340 kB', '1.2 MB'. */
function saySize(bytes: number): string {
  return bytes < 1_000_000
    ? `${Math.max(1, Math.round(bytes / 1000))} kB`
    : `${(bytes / 1_000_000).toFixed(1)} MB`;
}
