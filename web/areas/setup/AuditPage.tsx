import { Box, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { AuditRow } from '../../../server/audit/messages.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';
import { sayName } from '../../parts/sayName.ts';
import { sayInstant } from '../../parts/sayInstant.ts';

const COLUMNS: readonly Column<AuditRow>[] = [
  { heading: 'When', sort: 'at', width: '215px', cell: ({ at }) => sayInstant(at) },
  { heading: 'Who', sort: 'who', width: '20%', cell: ({ who }) => who },
  { heading: 'Did', sort: 'did', cell: ({ did }) => did },
  { heading: 'To', width: '28%', cell: ({ subject }) => subject },
];

/** Who did what, when, from where: nothing on it is ever changed. */
export function AuditPage() {
  const [chosen, setChosen] = useState<AuditRow | null>(null);
  return (
    <PageAndMargin
      title="Audit"
      marginLabel="The chosen entry"
      margin={chosen !== null && <Entry entry={chosen} />}
    >
      <Text color="muted" mb="3">
        Every write is here, with its values before and after. Nobody can change or remove an entry.
      </Text>
      <ListPage<AuditRow>
        path="/api/audit"
        label="entries"
        columns={COLUMNS}
        states={['interface', 'program', 'customer', 'terminal', 'stranger']}
        empty={<Text>Nothing has been done yet.</Text>}
        chosen={chosen?.id ?? null}
        onChoose={setChosen}
      />
    </PageAndMargin>
  );
}

function Entry({ entry }: { readonly entry: AuditRow }) {
  const [before, after] = [asObject(entry.before), asObject(entry.after)];
  const names = Object.keys({ ...before, ...after });
  return (
    <>
      <MarginHeading>
        {entry.who} {entry.did}
      </MarginHeading>
      <Text color="muted">
        {sayInstant(entry.at)}, by way of the {entry.via}
        {entry.address && `, from ${entry.address}`}
      </Text>
      {entry.agent && (
        <Text color="muted" fontSize="12px" overflowWrap="anywhere">
          {entry.agent}
        </Text>
      )}
      {names.length > 0 && (
        <Table.Root
          size="sm"
          mt="3"
          aria-label="Before and after"
          css={{ '& tr, & td, & th': { px: '1', bg: 'transparent' } }}
        >
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader>Before</Table.ColumnHeader>
              <Table.ColumnHeader>After</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {names.map((name) => (
              <Table.Row key={name}>
                {[before, after].map((side, i) => (
                  <Table.Cell key={i} verticalAlign="top" overflowWrap="anywhere" whiteSpace="pre-wrap">
                    {i === 0 && (
                      <Box color="muted" fontSize="12px">
                        {sayName(name)}
                      </Box>
                    )}
                    {i === 1 && <Box fontSize="12px">&nbsp;</Box>}
                    {sayValue(side[name])}
                  </Table.Cell>
                ))}
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
    </>
  );
}

function asObject(value: unknown): Record<string, unknown> {
  if (value === null || value === undefined) return {};
  return typeof value === 'object' && !Array.isArray(value) ? (value as Record<string, unknown>) : { value };
}

function sayValue(value: unknown): string {
  if (value === undefined) return '';
  return typeof value === 'string' ? value : JSON.stringify(value, null, 1);
}
