import { Box, Button, Flex, Input, Link as TextLink, Text } from '@chakra-ui/react';
import { useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import type { ErasureEffect, MergeEffect } from '../../../server/customers/mergeMessages.ts';
import type { CustomerRow, CustomerView } from '../../../server/customers/messages.ts';
import type { Page } from '../../../server/http/list.ts';
import { post, withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';

type Open = 'merge' | 'erase' | null;

/** What is held of a customer: given out whole, put together with another record, or erased. */
export function Holding({ customer }: { readonly customer: CustomerView }) {
  const { role } = useFrame();
  const [open, setOpen] = useState<Open>(null);
  const toggle = (to: Open) => setOpen(open === to ? null : to);
  return (
    <Box mt="7">
      <MarginHeading>What we hold</MarginHeading>
      <TextLink href={`/api/customers/${customer.id}/everything.json`} download color="kelp.fg">
        Save all that is held about {customer.name} (JSON)
      </TextLink>
      <Flex gap="2" mt="3" wrap="wrap">
        <Button size="xs" variant="outline" aria-expanded={open === 'merge'} onClick={() => toggle('merge')}>
          Put another record into this …
        </Button>
        {role === 'owner' && (
          <Button
            size="xs"
            variant="outline"
            aria-expanded={open === 'erase'}
            onClick={() => toggle('erase')}
          >
            Erase …
          </Button>
        )}
      </Flex>
      {open === 'merge' && <Merge customer={customer} onDone={() => setOpen(null)} />}
      {open === 'erase' && <Erase id={customer.id} onClose={() => setOpen(null)} />}
    </Box>
  );
}

function Merge({ customer, onDone }: { readonly customer: CustomerView; readonly onDone: () => void }) {
  const [typed, setTyped] = useState('');
  const [effect, setEffect] = useState<{ from: string; does: MergeEffect } | null>(null);
  const acting = useAct();
  const search = useDeferredValue(typed.trim());
  const { data } = useAnswer<Page<CustomerRow>>(
    search === '' ? null : withQuery('/api/customers', { search }),
  );
  const found = (data?.rows ?? []).filter(({ id }) => id !== customer.id).slice(0, 5);
  const path = `/api/customers/${customer.id}/merge`;
  const look = (from: string) =>
    acting.act(async () => setEffect({ from, does: await post<MergeEffect>(`${path}/effect`, { from }) }));
  const merge = async (from: string) => {
    if (await acting.act(() => post(path, { from }))) onDone();
  };
  return (
    <Box mt="3" role="group" aria-label="Put another record into this one">
      <Input
        size="sm"
        bg="page"
        aria-label="The other record"
        placeholder="Name, mail or number of the other record"
        maxLength={100}
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setEffect(null);
        }}
      />
      {effect === null &&
        found.map(({ id, name, email, plans }) => (
          <Flex key={id} gap="2" py="1" align="baseline">
            <Box flex="1" minW="0" fontSize="13px" overflowWrap="anywhere">
              {name}, {email}
              <Box color="muted">{plans ?? 'no subscription'}</Box>
            </Box>
            <Button size="2xs" variant="outline" loading={acting.busy} onClick={() => void look(id)}>
              This one
            </Button>
          </Flex>
        ))}
      {search !== '' && data && found.length === 0 && <Text color="muted">Nobody else is called so.</Text>}
      {effect && (
        <Box mt="2" ps="3" borderLeftWidth="2px" borderColor="declined">
          <Merged of={effect.does} />
          <Flex gap="2" mt="2" wrap="wrap">
            <Button
              size="xs"
              colorPalette="red"
              loading={acting.busy}
              onClick={() => void merge(effect.from)}
            >
              Put {effect.does.goes.name} into {effect.does.keeps.name}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setEffect(null)}>
              Leave both
            </Button>
          </Flex>
        </Box>
      )}
      <Outcome of={acting} />
    </Box>
  );
}

function Merged({ of }: { readonly of: MergeEffect }) {
  const { keeps, goes, subscriptions, invoices, letters, methods, lost, taxesDiffer } = of;
  return (
    <>
      <Text>
        Everything of {goes.name} becomes {keeps.name}’s, and the record of {goes.name} is gone.
      </Text>
      <Text>
        {[
          subscriptions.length > 0 ? subscriptions.join(', ') : 'no subscription',
          `${invoices} invoices`,
          `${letters} letters`,
          ...methods,
        ].join(', ')}
        .
      </Text>
      {methods.length > 0 && <Text>What runs is charged to the very cards that it is charged to now.</Text>}
      {taxesDiffer && (
        <Text color="declined">
          The two live elsewhere, or one pays no tax: taxes from now on are those of {keeps.name}.
        </Text>
      )}
      {lost.length > 0 && (
        <Text>Not kept: {lost.map(({ field, value }) => `${field} “${value}”`).join(', ')}.</Text>
      )}
      <Text>Links in letters to {goes.email} end.</Text>
    </>
  );
}

function Erase({ id, onClose }: { readonly id: string; readonly onClose: () => void }) {
  const { data: effect } = useAnswer<ErasureEffect>(`/api/customers/${id}/erasure`);
  const acting = useAct();
  const navigate = useNavigate();
  if (!effect) return null;
  const erase = async () => {
    if (await acting.act(() => post(`/api/customers/${id}/erasure`))) await navigate('/customers');
  };
  return (
    <Box
      mt="3"
      ps="3"
      borderLeftWidth="2px"
      borderColor="declined"
      role="group"
      aria-label="Erase the customer"
    >
      {effect.hindrances.length > 0 ? (
        <>
          <Text>Not yet:</Text>
          {effect.hindrances.map((says) => (
            <Text key={says}>{says}</Text>
          ))}
        </>
      ) : (
        <>
          <Text>
            Name, addresses, people beside them, notes, {effect.messages} messages and the text of{' '}
            {effect.letters} letters are erased. It cannot be taken back.
          </Text>
          <Text>
            {effect.invoices} invoices and their payments stay with the name and address that they were issued
            to, as the law of book-keeping asks; so do the audit and what staff were told by mail.
          </Text>
          <Flex gap="2" mt="2" wrap="wrap">
            <Button size="xs" colorPalette="red" loading={acting.busy} onClick={() => void erase()}>
              Erase {effect.name}
            </Button>
            <Button size="xs" variant="outline" onClick={onClose}>
              Keep it
            </Button>
          </Flex>
        </>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
