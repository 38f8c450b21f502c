import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { CONTACT_LETTERS, type ContactLetters } from '../../../server/customers/contactKinds.ts';
import { RECEIPTS } from '../../../server/customers/receiptMessages.ts';
import type { ContactView } from '../../../server/customers/contactMessages.ts';
import { post, put, remove } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';

const KINDS = Object.keys(CONTACT_LETTERS) as ContactLetters[];

type Draft = Omit<ContactView, 'id' | 'addedOn'>;
const NOBODY: Draft = {
  name: '',
  email: '',
  phone: '',
  role: '',
  letters: ['payments'],
  receipts: 'always',
  receiptsWhy: '',
};

/** The people beside a customer, each with the letters that they get too. */
export function Contacts({
  customerId,
  customer,
}: {
  readonly customerId: string;
  readonly customer: string;
}) {
  const path = `/api/customers/${customerId}/contacts`;
  const { data: contacts } = useAnswer<ContactView[]>(path);
  const [editing, setEditing] = useState<string | null>(null);
  const acting = useAct();
  if (!contacts) return null;
  const close = () => setEditing(null);
  return (
    <Box as="section" aria-label="People beside the customer" mt="6">
      <Flex gap="3" align="center" mb="2">
        <Text as="h2" fontFamily="heading" fontSize="16px">
          People beside {customer}
        </Text>
        <ForWriters>
          <Button
            size="xs"
            variant="outline"
            aria-expanded={editing === 'new'}
            onClick={() => setEditing('new')}
          >
            Add somebody
          </Button>
        </ForWriters>
      </Flex>
      {contacts.length === 0 && editing === null && (
        <Text color="muted">
          Letters go to the customer alone. A treasurer, an accountant or a parent can get some of them too.
        </Text>
      )}
      {contacts.map((one) =>
        editing === one.id ? (
          <ContactForm
            key={one.id}
            initial={one}
            store={(draft) => put(`${path}/${one.id}`, draft)}
            onClose={close}
          />
        ) : (
          <Flex
            key={one.id}
            gap="3"
            py="1"
            align="baseline"
            wrap="wrap"
            borderBottomWidth="1px"
            borderColor="lines"
          >
            <Text fontWeight="500">{one.name}</Text>
            {one.role !== '' && <Text>{one.role}</Text>}
            <Text color="muted">{[one.email, one.phone].filter(Boolean).join(', ')}</Text>
            <Text ml="auto" color="muted" fontSize="13px">
              {one.letters.length === 0
                ? 'gets no letters'
                : one.letters.map((kind) => CONTACT_LETTERS[kind]).join(', ')}
              {one.receipts === 'always' || !one.letters.includes('payments')
                ? ''
                : `; receipts: ${RECEIPTS[one.receipts].toLowerCase()}`}
            </Text>
            <ForWriters>
              <Button size="2xs" variant="outline" onClick={() => setEditing(one.id)}>
                Edit
              </Button>
              <Button
                size="2xs"
                variant="outline"
                aria-label={`Leave out ${one.name}`}
                onClick={() =>
                  void acting.act(
                    () => remove(`${path}/${one.id}`),
                    `${one.name} gets no letters any more. Links in those they got stay good until they are ended, at the right.`,
                  )
                }
              >
                Leave out
              </Button>
            </ForWriters>
          </Flex>
        ),
      )}
      {editing === 'new' && (
        <ContactForm initial={NOBODY} store={(draft) => post(path, draft)} onClose={close} />
      )}
      <Outcome of={acting} />
    </Box>
  );
}

function ContactForm(props: {
  readonly initial: Draft;
  readonly store: (draft: Draft) => Promise<unknown>;
  readonly onClose: () => void;
}) {
  const { initial, store, onClose } = props;
  const { name, email, phone, role, letters, receipts, receiptsWhy } = initial;
  const [draft, setDraft] = useState<Draft>({ name, email, phone, role, letters, receipts, receiptsWhy });
  const acting = useAct();
  const change = (to: Partial<Draft>) => setDraft((now) => ({ ...now, ...to }));
  const send = async (event: FormEvent) => {
    event.preventDefault();
    if (await acting.act(() => store(draft))) onClose();
  };
  const bind = (field: 'name' | 'email' | 'phone' | 'role' | 'receiptsWhy') => ({
    field,
    value: draft[field],
    error: acting.problem?.at(`/${field}`),
    onChange: (event: { readonly target: { readonly value: string } }) =>
      change({ [field]: event.target.value }),
  });
  return (
    <form noValidate onSubmit={(event) => void send(event)}>
      <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" px="4" py="3" my="2">
        <Flex gap="3" align="flex-start" wrap="wrap">
          <TextField label="Name" required maxLength={200} w="200px" {...bind('name')} />
          <TextField label="E-mail" type="email" required maxLength={200} w="240px" {...bind('email')} />
          <TextField
            label="Who they are"
            placeholder="Treasurer"
            maxLength={80}
            w="160px"
            {...bind('role')}
          />
          <TextField label="Telephone" maxLength={40} w="150px" {...bind('phone')} />
        </Flex>
        <Flex gap="4" wrap="wrap" mt="2" role="group" aria-label="Letters they get">
          {KINDS.map((kind) => (
            <TickField
              key={kind}
              label={CONTACT_LETTERS[kind]}
              checked={draft.letters.includes(kind)}
              onChange={(on) =>
                change({ letters: KINDS.filter((one) => (one === kind ? on : draft.letters.includes(one))) })
              }
            />
          ))}
        </Flex>
        {draft.letters.includes('payments') && (
          <Flex gap="3" mt="2" wrap="wrap">
            <SelectField
              label="Receipts"
              field="receipts"
              w="260px"
              value={draft.receipts}
              onChange={(event) => change({ receipts: event.target.value as Draft['receipts'] })}
            >
              {Object.entries(RECEIPTS).map(([value, says]) => (
                <option key={value} value={value}>
                  {says}
                </option>
              ))}
            </SelectField>
            {draft.receipts === 'never' && (
              <TextField
                label="No receipts because"
                required
                maxLength={200}
                w="260px"
                {...bind('receiptsWhy')}
              />
            )}
          </Flex>
        )}
        <Text color="muted" fontSize="13px">
          Some letters carry a link to the customer’s own page: whoever has it can pay and act there.
        </Text>
        <Flex gap="2" mt="2">
          <Button type="submit" size="sm" colorPalette="kelp" loading={acting.busy}>
            Store it
          </Button>
          <Button size="sm" variant="outline" onClick={onClose}>
            Leave it
          </Button>
        </Flex>
        <Outcome of={acting} />
      </Box>
    </form>
  );
}
