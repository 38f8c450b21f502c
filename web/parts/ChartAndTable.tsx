import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState, type ReactNode } from 'react';
import { saveCsv } from './saveCsv.ts';

export interface ChartTable {
  readonly name: string;
  readonly columns: readonly string[];
  /** What stands in the cells as it is read; the first names the row. */
  readonly rows: readonly (readonly string[])[];
  /** The same for a file, where that differs: plain numbers. */
  readonly plain?: readonly (readonly string[])[];
  readonly plainColumns?: readonly string[];
}

/** A chart with its title, what it shows in words, and its figures as a table and as a file. */
export function ChartAndTable(props: {
  readonly title: string;
  readonly says?: ReactNode;
  readonly table: ChartTable;
  readonly children: ReactNode;
  /** The table stands open from the beginning. */
  readonly open?: boolean;
}) {
  const { title, says, table, children } = props;
  const [isOpen, setOpen] = useState(props.open ?? false);
  return (
    <Box as="section" aria-label={title} mb="7" maxW="860px">
      <Flex align="baseline" gap="3" mb="1" wrap="wrap">
        <Text as="h2" fontFamily="heading" fontSize="16px" flex="1">
          {title}
        </Text>
        {props.open !== true && (
          <Button size="xs" variant="outline" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Without the table' : 'As a table'}
          </Button>
        )}
        <Button
          size="xs"
          variant="outline"
          aria-label={`${title}: the figures as CSV`}
          onClick={() => saveCsv(table.name, table.plainColumns ?? table.columns, table.plain ?? table.rows)}
        >
          CSV
        </Button>
      </Flex>
      {says !== undefined && (
        <Text color="muted" mb="2" maxW="760px">
          {says}
        </Text>
      )}
      {children}
      {isOpen && <Figures {...table} title={title} />}
    </Box>
  );
}

function Figures({ columns, rows, title }: ChartTable & { readonly title: string }) {
  return (
    <Box overflowX="auto" mt="2">
      <Box as="table" fontSize="13px" w="full">
        <Box as="caption" srOnly>
          {title}
        </Box>
        <thead>
          <tr>
            {columns.map((column, i) => (
              <Box as="th" key={i} fontWeight="500" pe="3" pb="1" textAlign={i === 0 ? 'start' : 'end'}>
                {column}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((cells, at) => (
            <Box as="tr" key={at} borderTopWidth="1px" borderColor="lines">
              {cells.map((cell, i) => (
                <Box
                  key={i}
                  as={i === 0 ? 'th' : 'td'}
                  {...(i === 0 ? { scope: 'row' } : {})}
                  fontWeight="400"
                  pe="3"
                  py="1"
                  whiteSpace="pre-line"
                  verticalAlign="top"
                  textAlign={i === 0 ? 'start' : 'end'}
                  fontVariantNumeric="tabular-nums"
                >
                  {cell}
                </Box>
              ))}
            </Box>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
