import { Box, Button, Checkbox, Flex, Link as A, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayDate } from '../../../core/words/date.ts';
import { newKeySchema, SCOPES, type KeyView, type Scope } from '../../../server/programs/messages.ts';
import { post, remove } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';
import { TextField } from '../../parts/TextField.tsx';
import { DateField } from '../../parts/DateField.tsx';

/** Keys by which programs use the API. */
export function KeysPage() {
  const { data: keys } = useAnswer<KeyView[]>('/api/keys');
  const acting = useAct();
  const [revoking, setRevoking] = useState<string | null>(null);
  return (
    <PageAndMargin title="API keys" margin={<NewKey />}>
      <Text mb="4" maxW="700px">
        A program sends its key as <code>Authorization: Bearer …</code>. What it can do is described in{' '}
        <A href="/api/openapi.json" target="_blank" color="kelp.fg">
          the OpenAPI document
        </A>
        ; errors are problems of RFC 9457, lists go by cursor, and a POST with an <code>Idempotency-Key</code>{' '}
        is done once.
      </Text>
      {keys?.length === 0 && <Text color="muted">There is no key yet. Make one at the right.</Text>}
      {keys && keys.length > 0 && (
        <Table.Root size="sm" aria-label="API keys" bg="page" borderWidth="1px" borderColor="lines">
          <Table.Header>
            <Table.Row bg="page">
              {['Program', 'Key', 'Scopes', 'Made', 'Used last', ''].map((heading) => (
                <Table.ColumnHeader key={heading} color="muted" fontWeight="500">
                  {heading}
                </Table.ColumnHeader>
              ))}
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {keys.map((key) => (
              <Table.Row key={key.id} h="36px" bg="page" color={key.revokedAt ? 'muted' : undefined}>
                <Table.Cell py="1">{key.name}</Table.Cell>
                <Table.Cell py="1" whiteSpace="nowrap">
                  <code>{key.startsWith}…</code>
                </Table.Cell>
                <Table.Cell py="1">{key.scopes.join(', ')}</Table.Cell>
                <Table.Cell py="1">
                  {sayInstant(key.madeAt)} by {key.madeBy}
                  {key.expiresOn && `, until ${sayDate(key.expiresOn)}`}
                </Table.Cell>
                <Table.Cell py="1">{key.usedAt ? sayInstant(key.usedAt) : 'never'}</Table.Cell>
                <Table.Cell py="1" textAlign="end" whiteSpace="nowrap">
                  {key.revokedAt ? (
                    'revoked'
                  ) : revoking === key.id ? (
                    <Button
                      size="xs"
                      colorPalette="red"
                      onClick={() =>
                        void acting.act(
                          () => remove(`/api/keys/${key.id}`),
                          `${key.name} is refused from now on.`,
                        )
                      }
                    >
                      {key.name} stops working: revoke
                    </Button>
                  ) : (
                    <Button size="xs" variant="ghost" onClick={() => setRevoking(key.id)}>
                      Revoke …
                    </Button>
                  )}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      <Outcome of={acting} />
    </PageAndMargin>
  );
}

function NewKey() {
  const [name, setName] = useState('');
  const [scopes, setScopes] = useState<readonly Scope[]>([]);
  const [expiresOn, setExpiresOn] = useState('');
  const [faults, setFaults] = useState<Readonly<Record<string, string>>>({});
  const [made, setMade] = useState('');
  const acting = useAct();
  const make = async () => {
    const parsed = newKeySchema.safeParse({ name, scopes, expiresOn: expiresOn === '' ? null : expiresOn });
    setFaults(
      parsed.success
        ? {}
        : Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('/'), message])),
    );
    if (!parsed.success) return;
    await acting.act(async () => {
      setMade((await post<{ key: string }>('/api/keys', parsed.data)).key);
      setName('');
      setScopes([]);
      setExpiresOn('');
    });
  };
  return (
    <>
      <MarginHeading>A new key</MarginHeading>
      {made !== '' && (
        <Box role="status" borderLeftWidth="3px" borderColor="collected" pl="3" mb="4">
          <Text>Copy it now: it is not shown again.</Text>
          <Text fontFamily="mono" fontSize="13px" overflowWrap="anywhere" mt="1">
            {made}
          </Text>
        </Box>
      )}
      <TextField
        label="For which program"
        maxLength={80}
        value={name}
        error={faults.name}
        onChange={(event) => setName(event.target.value)}
      />
      <Box role="group" aria-label="What it may do" mt="3">
        {(Object.entries(SCOPES) as [Scope, string][]).map(([scope, says]) => (
          <Box key={scope} py="1">
            <Checkbox.Root
              colorPalette="kelp"
              checked={scopes.includes(scope)}
              onCheckedChange={({ checked }) =>
                setScopes(checked === true ? [...scopes, scope] : scopes.filter((one) => one !== scope))
              }
            >
              <Checkbox.HiddenInput />
              <Checkbox.Control />
              <Checkbox.Label>{says}</Checkbox.Label>
            </Checkbox.Root>
          </Box>
        ))}
        <Text color="declined">{faults.scopes}</Text>
      </Box>
      <DateField
        label="Good until"
        hint="Empty: until it is revoked."
        value={expiresOn}
        error={faults.expiresOn ?? acting.problem?.at('/expiresOn')}
        onChange={(event) => setExpiresOn(event.target.value)}
      />
      <Flex mt="4">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void make()}>
          Make the key
        </Button>
      </Flex>
      <Outcome of={acting} />
    </>
  );
}
