import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useDeferredValue, useMemo } from 'react';
import type { MethodView } from '../../../../server/customers/methodMessages.ts';
import type { CustomerRow } from '../../../../server/customers/messages.ts';
import type { Page } from '../../../../server/http/list.ts';
import { withQuery } from '../../../api/client.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { ComboField } from '../../../parts/ComboField.tsx';
import { sayTypedPerson, typedPerson, type TypedPerson } from './typedPerson.ts';

/** The customer of an id, as the list has them. */
export function useChosenCustomer(id: string): CustomerRow | undefined {
  const { data } = useAnswer<Page<CustomerRow>>(
    id === '' ? null : withQuery('/api/customers', { customerId: id }),
  );
  return id === '' ? undefined : data?.rows.find((row) => row.id === id);
}

/** The methods in use of a customer, in their turn. */
export function useMethods(customerId: string): readonly MethodView[] {
  const { data = [] } = useAnswer<MethodView[]>(
    customerId === '' ? null : `/api/customers/${customerId}/methods`,
  );
  return data.filter(({ state }) => state === 'usable');
}

/** Whoever is a customer already under an e-mail address; undefined: nobody. */
export function useSameAddress(email: string): CustomerRow | undefined {
  const asked = useDeferredValue(email.trim().toLowerCase());
  const { data } = useAnswer<Page<CustomerRow>>(
    /^[^@\s]+@[^@\s]+\.[^@\s]{2,}$/.test(asked) ? withQuery('/api/customers', { search: asked }) : null,
  );
  return data?.rows.find((row) => row.email.toLowerCase() === asked);
}

/** Those whose name begins with what was typed, or has a word that does, before all others. */
function nearestFirst(rows: readonly CustomerRow[], typed: string): CustomerRow[] {
  const text = typed.toLowerCase();
  const distance = ({ name, reference }: CustomerRow) => {
    const called = name.toLowerCase();
    if (called.startsWith(text) || reference.toLowerCase() === text) return 0;
    return called.includes(` ${text}`) ? 1 : 2;
  };
  return rows.toSorted((a, b) => distance(a) - distance(b));
}

const NEW = 'new';
/** So many of those found are offered. */
const OFFERED = 7;

/** One field that finds a customer by name, e-mail or number, or takes somebody new. */
export function WhoField(props: {
  readonly chosen: CustomerRow | undefined;
  readonly typed: string;
  readonly error: string | undefined;
  readonly onTyped: (typed: string) => void;
  readonly onChoose: (id: string) => void;
  readonly onNew: (person: TypedPerson) => void;
}) {
  const { chosen, typed, error, onTyped, onChoose, onNew } = props;
  const text = typed.trim();
  const person = typedPerson(text);
  // An address tells more exactly than a name beside it.
  const search = person.email || text;
  const { data } = useAnswer<Page<CustomerRow>>(
    text === '' || chosen ? null : withQuery('/api/customers', { search }),
  );
  const items = useMemo(() => {
    if (text === '') return [];
    const rows = nearestFirst(data?.rows ?? [], text).slice(0, OFFERED);
    return [
      ...rows.map(({ id, name, email, reference }) => ({
        value: id,
        label: name,
        detail: reference.startsWith('new-') ? email : `${email}, ${reference}`,
      })),
      { value: NEW, label: `Somebody new: ${sayTypedPerson(typedPerson(text))}` },
    ];
  }, [data, text]);
  if (chosen)
    return (
      <Flex gap="3" align="center" minH="36px" wrap="wrap" data-field="customer">
        <Text fontWeight="600">{chosen.name}</Text>
        <Text color="muted">{chosen.email}</Text>
        {chosen.plans && <Text color="muted">has {chosen.plans}</Text>}
        <Button size="xs" variant="outline" onClick={() => onChoose('')}>
          Another customer
        </Button>
      </Flex>
    );
  return (
    <ComboField
      label="Customer"
      field="customer"
      required
      placeholder="Name, e-mail or number; for somebody new, name and e-mail"
      items={items}
      typed={typed}
      error={error}
      onTyped={onTyped}
      onTake={(value) => (value === NEW ? onNew(person) : onChoose(value))}
    />
  );
}

/** Says that somebody has the address that was typed already, and offers them. */
export function SameAddress(props: {
  readonly known: CustomerRow;
  readonly another: boolean;
  readonly onTake: () => void;
  readonly onAnother: () => void;
}) {
  const { known, another, onTake, onAnother } = props;
  return (
    <Box role="status" bg="kelp.muted" px="3" py="2" borderRadius="md">
      <Text>
        {another ? 'Somebody else, beside ' : ''}
        <strong>{known.name}</strong> has this address already
        {known.plans ? ` and subscribes to ${known.plans}` : ''}.
      </Text>
      <Flex gap="2" mt="1">
        <Button size="xs" colorPalette="kelp" onClick={onTake}>
          Enrol {known.name}
        </Button>
        {!another && (
          <Button size="xs" variant="outline" bg="page" onClick={onAnother}>
            This is somebody else
          </Button>
        )}
      </Flex>
    </Box>
  );
}
