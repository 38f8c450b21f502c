import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState, type KeyboardEvent } from 'react';
import type { CustomerRow } from '../../../../server/customers/messages.ts';
import type { Page } from '../../../../server/http/list.ts';
import { withQuery } from '../../../api/client.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { TextField } from '../../../parts/TextField.tsx';

/** The customer of an id, as the list has them. */
export function useChosenCustomer(id: string): CustomerRow | undefined {
  const { data: known } = useAnswer<{ name: string }>(id === '' ? null : `/api/customers/${id}`);
  const { data } = useAnswer<Page<CustomerRow>>(
    id === '' || !known ? null : withQuery('/api/customers', { search: known.name }),
  );
  return id === '' ? undefined : data?.rows.find((row) => row.id === id);
}

/** Finds one of the customers there are. */
export function ChooseCustomer(props: {
  chosen: CustomerRow | undefined;
  error: string | undefined;
  onChoose: (id: string) => void;
}) {
  const { chosen, error, onChoose } = props;
  const [search, setSearch] = useState('');
  const [at, setAt] = useState(0);
  const [isPicked, setPicked] = useState(false);
  const pick = (id: string) => {
    setPicked(true);
    onChoose(id);
  };
  const { data } = useAnswer<Page<CustomerRow>>(
    search.trim() === '' ? null : withQuery('/api/customers', { search }),
  );
  if (chosen) {
    return (
      <Flex gap="3" align="center">
        <Text fontWeight="600">{chosen.name}</Text>
        <Text color="muted">{chosen.email}</Text>
        <Button
          size="xs"
          variant="outline"
          // The field that was typed in is gone: the focus stays in its place.
          autoFocus={isPicked}
          onClick={() => onChoose('')}
        >
          Choose another
        </Button>
      </Flex>
    );
  }
  const rows = search.trim() === '' ? [] : (data?.rows.slice(0, 6) ?? []);
  const onKeyDown = (event: KeyboardEvent) => {
    const row = rows[at];
    if (event.key === 'ArrowDown') setAt(Math.min(at + 1, rows.length - 1));
    else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
    else if (event.key === 'Enter' && row) pick(row.id);
    else return;
    event.preventDefault();
  };
  return (
    <Box>
      <TextField
        label="Find the customer"
        field="customer"
        placeholder="Name or e-mail; Enter takes the one that is marked"
        role="combobox"
        aria-expanded={rows.length > 0}
        aria-controls="customers-found"
        aria-activedescendant={rows[at] ? `found-${rows[at].id}` : undefined}
        autoComplete="off"
        maxLength={100}
        value={search}
        error={error}
        onKeyDown={onKeyDown}
        onChange={(event) => {
          setSearch(event.target.value);
          setAt(0);
        }}
      />
      <Box
        id="customers-found"
        role="listbox"
        aria-label="Customers found"
        bg="page"
        borderWidth={rows.length > 0 ? '1px' : '0'}
        borderColor="lines"
        borderRadius="md"
        mt="1"
      >
        {rows.map((row, i) => (
          <Box
            key={row.id}
            id={`found-${row.id}`}
            role="option"
            aria-selected={i === at}
            px="3"
            py="1"
            cursor="pointer"
            bg={i === at ? 'kelp.muted' : undefined}
            onMouseEnter={() => setAt(i)}
            onClick={() => pick(row.id)}
          >
            {row.name}{' '}
            <Box as="span" color="muted">
              {row.email}
            </Box>
          </Box>
        ))}
      </Box>
      {search.trim() !== '' && data?.rows.length === 0 && <Text p="2">Nobody of that name.</Text>}
    </Box>
  );
}
