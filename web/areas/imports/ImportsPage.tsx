import { Box, Button, Flex, Link as TextLink, Table, Text } from '@chakra-ui/react';
import { useRef } from 'react';
import { Link, useNavigate } from 'react-router';
import type { ImportRow, ImportState } from '../../../server/imports/messages.ts';
import { upload } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayCount } from '../../parts/sayCount.ts';
import { sayInstant } from '../../parts/sayInstant.ts';

const STATES: Readonly<Record<ImportState, string>> = {
  new: 'its columns are to be named',
  checking: 'being checked',
  checked: 'checked',
  importing: 'being brought in',
  done: 'brought in',
  broken: 'broken off',
};

const OF_FILE = {
  tooLarge: 'This file is larger than 64 MB. Split it into several.',
  notTaken: 'The file was not taken.',
};

/** Brings in customers from a spreadsheet: a file is chosen here, and those before it are listed. */
export function ImportsPage() {
  const { data: before = [] } = useAnswer<ImportRow[]>('/api/imports');
  const navigate = useNavigate();
  const acting = useAct();
  const input = useRef<HTMLInputElement>(null);
  const take = async (file: File) => {
    const path = `/api/imports?name=${encodeURIComponent(file.name)}`;
    // As bytes, whatever the browser calls it.
    const bytes = new Blob([await file.arrayBuffer()], { type: 'application/octet-stream' });
    const { id } = await upload<{ id: string }>(path, bytes, OF_FILE);
    await navigate(`/import/${id}`);
  };
  return (
    <PageAndMargin title="Bring in customers">
      <Text maxW="640px" mb="4">
        Save your list as CSV in the spreadsheet, with a first line that names its columns, and choose it
        here. You then say what each column is, and see what would come of it. Nothing is stored before you
        have seen that, and then all of it or nothing.
      </Text>
      <Box
        borderWidth="1px"
        borderStyle="dashed"
        borderColor="lines"
        borderRadius="md"
        bg="page"
        p="6"
        maxW="640px"
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          const [file] = event.dataTransfer.files;
          if (file) void acting.act(() => take(file));
        }}
      >
        <input
          ref={input}
          type="file"
          accept=".csv,.tsv,.txt,text/csv"
          aria-label="File of customers"
          hidden
          onChange={(event) => {
            const file = event.target.files?.[0];
            // The same file may be chosen again once it was mended.
            event.target.value = '';
            if (file) void acting.act(() => take(file));
          }}
        />
        <Flex gap="4" align="center">
          <Button colorPalette="kelp" size="sm" loading={acting.busy} onClick={() => input.current?.click()}>
            Choose a file …
          </Button>
          <Text color="muted">or drop it here</Text>
        </Flex>
        <Outcome of={acting} />
      </Box>
      <Text mt="3" color="muted" fontSize="13px" maxW="640px">
        Commas, semicolons or tabs; UTF-8, UTF-16 or the western code page; dates as your business writes
        them. Plans and rates are known by their names. Card numbers do not belong in a file: whoever has no
        card yet can be asked for one by mail.
      </Text>
      {before.length > 0 && (
        <Box mt="8" maxW="860px">
          <Text as="h2" fontFamily="heading" fontSize="18px" mb="2">
            Files so far
          </Text>
          <Table.Root size="sm" aria-label="Files so far">
            <Table.Header>
              <Table.Row bg="transparent">
                {['File', 'When', 'Who', 'State'].map((heading) => (
                  <Table.ColumnHeader key={heading} color="muted">
                    {heading}
                  </Table.ColumnHeader>
                ))}
                <Table.ColumnHeader color="muted" textAlign="end">
                  Customers added
                </Table.ColumnHeader>
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {before.map((one) => (
                <Table.Row key={one.id}>
                  <Table.Cell>
                    <TextLink asChild color="kelp.fg">
                      <Link to={`/import/${one.id}`}>{one.name}</Link>
                    </TextLink>
                  </Table.Cell>
                  <Table.Cell whiteSpace="nowrap">{sayInstant(one.madeAt)}</Table.Cell>
                  <Table.Cell>{one.madeBy}</Table.Cell>
                  <Table.Cell>{STATES[one.state]}</Table.Cell>
                  <Table.Cell textAlign="end">
                    {one.state === 'done' ? sayCount(one.customers) : ''}
                  </Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
        </Box>
      )}
    </PageAndMargin>
  );
}
