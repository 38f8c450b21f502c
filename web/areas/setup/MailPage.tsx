import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { Me } from '../../../server/staff/messages.ts';
import type { SectionValue } from '../../../server/settings/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { CountField, faultAt, field, SectionForm } from './SectionForm.tsx';

const NEW_SERVER = { host: '', port: 587, security: 'starttls', user: '', password: '' } as const;

/** By which server letters go out, in whose name, and when not. */
export function MailPage() {
  const { data: route } = useAnswer<{ inEnvironment: boolean }>('/api/mail-server');
  return (
    <SectionForm
      name="mail"
      title="Mail"
      margin={(value, changed) => <Meaning value={value} changed={changed} />}
    >
      {(form, value) => (
        <>
          <Flex gap="4">
            <TextField
              label="Sender name"
              maxLength={120}
              hint="Empty: the name of the business."
              {...field(form, 'senderName')}
            />
            <TextField label="Sender address" required type="email" {...field(form, 'senderAddress')} />
          </Flex>
          <TextField
            label="Name that answers go to"
            maxLength={120}
            hint="The reply address itself stands under Business."
            {...field(form, 'replyName')}
          />
          <Flex gap="4">
            <TextField
              label="Quiet hours from"
              placeholder="21:00"
              maxLength={5}
              hint="No letter to a customer goes out then."
              {...field(form, 'quietFrom')}
            />
            <TextField label="to" placeholder="08:00" maxLength={5} {...field(form, 'quietTo')} />
          </Flex>
          <Box w="312px">
            <CountField
              form={form}
              path="mostPerSecond"
              label="Letters in a second, at most"
              optional
              least={1}
              most={1000}
              hint="Empty: as many as the mail server takes."
            />
          </Box>
          <Box>
            <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
              Mail server
            </Text>
            {value.server === null ? (
              <Flex gap="3" align="center">
                <Text>
                  {route === undefined
                    ? ''
                    : route.inEnvironment
                      ? 'The server of the environment (SMTP_URL) is used.'
                      : 'None is set: no letter can go out. Use one here, or set SMTP_URL in the environment.'}
                </Text>
                <Button
                  size="xs"
                  variant="outline"
                  onClick={() => form.setValue('server', { ...NEW_SERVER }, { shouldDirty: true })}
                >
                  {route?.inEnvironment ? 'Use another' : 'Use one'}
                </Button>
              </Flex>
            ) : (
              <>
                <Flex gap="4" mb="4">
                  <TextField label="Server" placeholder="smtp.post.example" {...field(form, 'server.host')} />
                  <Box w="100px" flexShrink={0}>
                    <CountField form={form} path="server.port" label="Port" least={1} most={65535} />
                  </Box>
                  <Box w="190px" flexShrink={0}>
                    <SelectField label="Protection" {...field(form, 'server.security')}>
                      <option value="starttls">STARTTLS, required</option>
                      <option value="tls">TLS from the start</option>
                      <option value="none">none</option>
                    </SelectField>
                  </Box>
                </Flex>
                <Flex gap="4" mb="3">
                  <TextField label="User" autoComplete="off" {...field(form, 'server.user')} />
                  <TextField
                    label="Password"
                    type="password"
                    autoComplete="new-password"
                    hint={
                      value.server.hasPassword
                        ? 'One is stored. Empty keeps it, at the same server.'
                        : 'Stored encrypted.'
                    }
                    {...field(form, 'server.password')}
                  />
                </Flex>
                <Button
                  size="xs"
                  variant="ghost"
                  onClick={() => form.setValue('server', null, { shouldDirty: true })}
                >
                  Use the server of the environment
                </Button>
              </>
            )}
            <Text color="declined">{faultAt(form, 'server')}</Text>
          </Box>
        </>
      )}
    </SectionForm>
  );
}

function Meaning({ value, changed }: { readonly value: SectionValue<'mail'>; readonly changed: boolean }) {
  const { name, practice, role } = useFrame();
  const { data: me } = useAnswer<Me>('/api/me');
  const [to, setTo] = useState<string | null>(null);
  const [says, setSays] = useState<{ good: boolean; text: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const address = to ?? me?.email ?? '';
  const test = async () => {
    setBusy(true);
    setSays(null);
    try {
      setSays({ good: true, text: (await post<{ says: string }>('/api/mail/test', { to: address })).says });
    } catch (error) {
      setSays({ good: false, text: error instanceof Problem ? error.message : 'It was not sent.' });
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <MarginHeading>In an inbox</MarginHeading>
      <Box bg="page" borderWidth="1px" borderColor="lines" px="3" py="2">
        <Text fontWeight="600">{value.senderName || name}</Text>
        <Text color="muted" fontSize="13px" overflowWrap="anywhere">
          {value.senderAddress}
        </Text>
        <Text>Receipt for £34.20: Hive Watch</Text>
      </Box>
      {value.quietFrom !== '' && (
        <Text mt="2">
          {practice
            ? 'Quiet hours hold when the business runs by the clock; the practice clock has no hours.'
            : `A letter written between ${value.quietFrom} and ${value.quietTo} goes out at ${value.quietTo}.`}
        </Text>
      )}
      <MarginHeading>A test letter</MarginHeading>
      <TextField label="To" type="email" value={address} onChange={(event) => setTo(event.target.value)} />
      <Button
        mt="2"
        size="xs"
        variant="outline"
        loading={busy}
        disabled={role !== 'owner'}
        onClick={() => void test()}
      >
        Send a test letter
      </Button>
      {changed && (
        <Text color="muted" fontSize="13px" mt="1">
          It goes by the stored settings: store the changes first.
        </Text>
      )}
      <Text role="status" mt="1" overflowWrap="anywhere" color={says?.good ? 'collected' : 'declined'}>
        {says?.text ?? ''}
      </Text>
    </>
  );
}
