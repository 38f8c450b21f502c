import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { CustomerRow } from '../../../../server/customers/messages.ts';
import type { Page } from '../../../../server/http/list.ts';
import { withQuery } from '../../../api/client.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { ComboField } from '../../../parts/ComboField.tsx';

interface Named {
  readonly id: string;
  readonly name: string;
}

/** On which customer a letter is tried: somebody made up, or one found by typing. */
export function OnWhom(props: {
  readonly chosen: Named | null;
  readonly onChoose: (customer: Named | null) => void;
}) {
  const { chosen, onChoose } = props;
  const [typed, setTyped] = useState('');
  const text = typed.trim();
  const { data } = useAnswer<Page<CustomerRow>>(
    text === '' ? null : withQuery('/api/customers', { search: text }),
  );
  if (chosen)
    return (
      <Flex gap="3" align="center" mb="2">
        <Text>
          Tried on <strong>{chosen.name}</strong>
        </Text>
        <Button size="xs" variant="outline" onClick={() => onChoose(null)}>
          Somebody else
        </Button>
      </Flex>
    );
  const found = (data?.rows ?? []).slice(0, 7);
  return (
    <Box mb="2">
      <ComboField
        label="Try it on a customer"
        placeholder="Name, e-mail or number"
        items={found.map(({ id, name, email }) => ({ value: id, label: name, detail: email }))}
        typed={typed}
        nothing="Nobody is called so."
        onTyped={setTyped}
        onTake={(id) => {
          const taken = found.find((one) => one.id === id);
          setTyped('');
          if (taken) onChoose({ id, name: taken.name });
        }}
      />
    </Box>
  );
}
