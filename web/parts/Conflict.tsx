import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import { sayName } from './sayName.ts';
import { MarginHeading } from '../frame/PageAndMargin.tsx';

interface Props {
  readonly mine: object;
  readonly theirs: object;
  readonly by: string;
  readonly onMine: () => void;
  readonly onTheirs: () => void;
}

/** Two people edited the same: both values side by side where they differ, and a choice. Nothing was written over. */
export function Conflict({ mine, theirs, by, onMine, onTheirs }: Props) {
  const of = (value: object, name: string) => sayValue((value as Record<string, unknown>)[name]);
  const differ = Object.keys({ ...mine, ...theirs }).filter((name) => of(mine, name) !== of(theirs, name));
  return (
    <Box role="alert" mt="5" borderLeftWidth="3px" borderColor="trial" pl="3">
      <MarginHeading>Changed meanwhile</MarginHeading>
      <Text mb="2">
        {by || 'Somebody'} stored other values while you were editing. Nothing of yours is stored yet.
      </Text>
      <Table.Root
        size="sm"
        aria-label="Both values"
        css={{ '& tr, & td, & th': { px: '1', bg: 'transparent' } }}
      >
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader>Yours</Table.ColumnHeader>
            <Table.ColumnHeader>Theirs</Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {differ.map((name) => (
            <Table.Row key={name}>
              <Table.Cell overflowWrap="anywhere">
                <Text color="muted" fontSize="12px">
                  {sayName(name)}
                </Text>
                {of(mine, name)}
              </Table.Cell>
              <Table.Cell overflowWrap="anywhere" verticalAlign="bottom">
                {of(theirs, name)}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      <Flex gap="2" mt="3">
        <Button size="xs" variant="outline" onClick={onMine}>
          Store mine
        </Button>
        <Button size="xs" variant="outline" onClick={onTheirs}>
          Take theirs
        </Button>
      </Flex>
    </Box>
  );
}

function sayValue(value: unknown): string {
  if (value === '' || value === null || value === undefined) return '(empty)';
  return typeof value === 'string' ? value : JSON.stringify(value);
}
