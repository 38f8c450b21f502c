import { Button, Flex } from '@chakra-ui/react';
import type { EnrolmentForm } from '../../../../server/subscriptions/messages.ts';
import { TextField } from '../../../parts/TextField.tsx';
import { ContactFields } from '../ContactFields.tsx';
import { requiredOf, type EnrolDraft } from './enrolDraft.ts';
import { SameAddress, type useSameAddress } from './WhoField.tsx';

interface Props {
  readonly draft: EnrolDraft;
  readonly form: EnrolmentForm;
  /** The customer who has the address already. */
  readonly known: ReturnType<typeof useSameAddress>;
  readonly faultAt: (field: string) => string | undefined;
  readonly demanded: (field: string, says: string, isEmpty: boolean) => string | undefined;
  /** Whether a field is among what is still missing. */
  readonly lacks: (field: string) => boolean;
  readonly onChange: (to: Partial<EnrolDraft>) => void;
  /** Takes a customer there is; empty: one that is looked for. */
  readonly onChoose: (id: string) => void;
}

/** Somebody new: their name, their address, and what Setup asks of them. */
export function NewWho({ draft, form, known, faultAt, demanded, lacks, onChange, onChoose }: Props) {
  return (
    <>
      <Flex gap="3" align="flex-end">
        <TextField
          label="Name"
          field="customer/name"
          required
          maxLength={200}
          value={draft.name}
          error={demanded('customer/name', 'Give a name.', draft.name.trim() === '')}
          onChange={(event) => onChange({ name: event.target.value })}
        />
        <TextField
          label="E-mail"
          field="customer/email"
          type="email"
          required
          maxLength={200}
          value={draft.email}
          error={demanded(
            'customer/email',
            known && !draft.another
              ? `${known.name} has this address already.`
              : 'Give an e-mail address, such as ada@post.example.',
            lacks('customer/email'),
          )}
          onChange={(event) => onChange({ email: event.target.value, another: false })}
        />
        <Button size="xs" variant="outline" mb="1" onClick={() => onChoose('')}>
          One of our customers
        </Button>
      </Flex>
      {known && (
        <SameAddress
          known={known}
          another={draft.another}
          onTake={() => onChoose(known.id)}
          onAnother={() => onChange({ another: true })}
        />
      )}
      <ContactFields
        form={form}
        contact={draft.contact}
        faultAt={faultAt}
        required={requiredOf(form)}
        onChange={(contact) => onChange({ contact })}
      />
    </>
  );
}
