import { Box, Table, Text } from '@chakra-ui/react';
import type { ReactNode } from 'react';

interface Props {
  /** What it is of, read out. */
  readonly label: string;
  /** The headings of the last two columns: what moved, and how it stands after. */
  readonly amounts: readonly [string, string];
  /** Rows of the table: a day, what and about, and the two amounts. */
  readonly children: ReactNode;
  /** Where there is no row. */
  readonly empty?: string | undefined;
  /** What it comes to, in words. */
  readonly closing: string;
}

/** A statement of movements, each with how it stands after it. */
export function Ledger({ label, amounts, children, empty, closing }: Props) {
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" mb="5" maxW="820px">
      <Table.Root
        size="sm"
        aria-label={label}
        css={{ '& td, & th': { bg: 'page', borderColor: 'lines', py: '5px' } }}
      >
        <Table.Header>
          <Table.Row>
            {['Day', 'What', 'About'].map((heading) => (
              <Table.ColumnHeader key={heading} color="muted">
                {heading}
              </Table.ColumnHeader>
            ))}
            {amounts.map((heading) => (
              <Table.ColumnHeader key={heading} color="muted" textAlign="end">
                {heading}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>{children}</Table.Body>
      </Table.Root>
      {empty && (
        <Text px="3" py="2" color="muted">
          {empty}
        </Text>
      )}
      <Text px="3" py="2" fontWeight="600" textAlign="end">
        {closing}
      </Text>
    </Box>
  );
}
