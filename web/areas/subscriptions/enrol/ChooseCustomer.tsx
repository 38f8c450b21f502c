import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
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
  const { data } = useAnswer<Page<CustomerRow>>(
    search.trim() === '' ? null : withQuery('/api/customers', { search }),
  );
  if (chosen) {
    return (
      <Flex gap="3" align="center">
        <Text fontWeight="600">{chosen.name}</Text>
        <Text color="muted">{chosen.email}</Text>
        <Button size="xs" variant="outline" onClick={() => onChoose('')}>
          Choose another
        </Button>
      </Flex>
    );
  }
  return (
    <Box>
      <TextField
        label="Find the customer"
        placeholder="Name or e-mail"
        value={search}
        error={error}
        onChange={(event) => setSearch(event.target.value)}
      />
      {search.trim() !== '' && (
        <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" mt="1">
          {data?.rows.slice(0, 6).map((row) => (
            <Button
              key={row.id}
              variant="ghost"
              size="sm"
              w="full"
              justifyContent="flex-start"
              onClick={() => onChoose(row.id)}
            >
              {row.name}
              <Box as="span" color="muted" fontWeight="400">
                {row.email}
              </Box>
            </Button>
          ))}
          {data?.rows.length === 0 && <Text p="2">Nobody of that name.</Text>}
        </Box>
      )}
    </Box>
  );
}
