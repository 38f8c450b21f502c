import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useRef } from 'react';
import { CONTACT_LETTERS, type ContactLetters } from '../../../../server/customers/contactKinds.ts';
import type { ContactView } from '../../../../server/customers/contactMessages.ts';
import { upload, withQuery } from '../../../api/client.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { useAct } from '../../../api/useAct.ts';
import { Outcome } from '../../../parts/Outcome.tsx';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import type { BesideDraft, EnrolDraft, FileDraft } from './enrolDraft.ts';

interface Props {
  readonly draft: EnrolDraft;
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (to: Partial<EnrolDraft>) => void;
}

const KINDS = Object.keys(CONTACT_LETTERS) as ContactLetters[];
const MOST = 5;
const SAID = { tooLarge: 'A document has at most 5 MB.', notTaken: 'The document was not taken.' };

/** Who gets letters beside the customer, and what goes with them. */
export default function WithLetters(props: Props) {
  return (
    <>
      <WhoElse {...props} />
      <WhatGoesWith {...props} />
    </>
  );
}

function WhoElse({ draft, faultAt, onChange }: Props) {
  const { contacts, customerId, who } = draft;
  const { data: known = [] } = useAnswer<ContactView[]>(
    who === 'existing' && customerId !== '' ? `/api/customers/${customerId}/contacts` : null,
  );
  const set = (at: number, to: Partial<BesideDraft>) =>
    onChange({ contacts: contacts.map((one, i) => (i === at ? { ...one, ...to } : one)) });
  const told = who === 'existing' ? known.filter(({ letters }) => letters.length > 0) : [];
  return (
    <Box role="group" aria-label="Who gets letters">
      <Text fontWeight="500">Who gets letters</Text>
      <Text color="muted" fontSize="13px" mb="2">
        The customer
        {told.map(
          ({ name, letters }) => `, ${name} (${letters.map((one) => CONTACT_LETTERS[one]).join(', ')})`,
        )}
        {contacts.length > 0 ? ', and:' : '.'}
      </Text>
      {contacts.map((one, i) => (
        <Box key={i} mb="3" borderStartWidth="2px" borderColor="lines" ps="3">
          <Flex gap="3" align="flex-start" wrap="wrap">
            <TextField
              label="Their name"
              field={`contacts/${i}/name`}
              required
              w="200px"
              maxLength={200}
              value={one.name}
              error={faultAt(`contacts/${i}/name`)}
              onChange={(event) => set(i, { name: event.target.value })}
            />
            <TextField
              label="Their e-mail"
              field={`contacts/${i}/email`}
              type="email"
              required
              w="240px"
              maxLength={200}
              value={one.email}
              error={faultAt(`contacts/${i}/email`)}
              onChange={(event) => set(i, { email: event.target.value })}
            />
            <Button
              size="xs"
              variant="outline"
              mt="6"
              aria-label={`Leave out ${one.name || `person ${i + 1}`}`}
              onClick={() => onChange({ contacts: contacts.filter((_, at) => at !== i) })}
            >
              Leave out
            </Button>
          </Flex>
          <Flex gap="4" wrap="wrap" mt="1" role="group" aria-label="Letters they get">
            {KINDS.map((kind) => (
              <TickField
                key={kind}
                label={CONTACT_LETTERS[kind]}
                checked={one.letters.includes(kind)}
                onChange={(on) =>
                  set(i, {
                    letters: KINDS.filter((other) => (other === kind ? on : one.letters.includes(other))),
                  })
                }
              />
            ))}
          </Flex>
        </Box>
      ))}
      {contacts.length < MOST && (
        <Button
          size="xs"
          variant="outline"
          onClick={() =>
            onChange({ contacts: [...contacts, { name: '', email: '', letters: ['payments'] }] })
          }
        >
          Somebody else gets letters too
        </Button>
      )}
    </Box>
  );
}

function WhatGoesWith({ draft, faultAt, onChange }: Props) {
  const { files, firstLetter } = draft;
  const chooser = useRef<HTMLInputElement>(null);
  const acting = useAct();
  const set = (at: number, to: Partial<FileDraft>) =>
    onChange({ files: files.map((one, i) => (i === at ? { ...one, ...to } : one)) });
  const send = async (file: File) => {
    const goesWith = firstLetter ? ('first letter' as const) : ('invoices' as const);
    await acting.act(async () => {
      const { id } = await upload<{ id: string }>(withQuery('/api/files', { name: file.name }), file, SAID);
      onChange({ files: [...files, { id, name: file.name, goesWith }] });
    });
  };
  return (
    <Box role="group" aria-label="Documents that go with letters">
      <Text fontWeight="500">Documents that go with letters</Text>
      {files.map(({ id, name, goesWith }, i) => (
        <Flex key={id} gap="3" align="flex-start" mb="2" wrap="wrap">
          <SelectField
            label={name}
            field={`files/${i}`}
            w="320px"
            value={goesWith}
            error={faultAt(`files/${i}`)}
            onChange={(event) => set(i, { goesWith: event.target.value as FileDraft['goesWith'] })}
          >
            <option value="first letter">goes with the first letter</option>
            <option value="invoices">goes with every invoice and receipt</option>
          </SelectField>
          <Button
            size="xs"
            variant="outline"
            mt="6"
            aria-label={`Leave out ${name}`}
            onClick={() => onChange({ files: files.filter((_, at) => at !== i) })}
          >
            Leave out
          </Button>
        </Flex>
      ))}
      {files.length < MOST && (
        <Button size="xs" variant="outline" loading={acting.busy} onClick={() => chooser.current?.click()}>
          Add a document
        </Button>
      )}
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="A document to go with letters"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          event.target.value = '';
          if (file) void send(file);
        }}
      />
      <Outcome of={acting} />
    </Box>
  );
}
