import { Box, Button, Flex, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import {
  DELIVERIES,
  newPasswordSchema,
  NOTICE_KINDS,
  SHORTEST_PASSWORD,
  type Delivery,
  type Me,
  type NoticeKind,
} from '../../../server/staff/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { TextField } from '../../parts/TextField.tsx';
import { Sessions } from './Sessions.tsx';

/** Oneself: what one is told of, one's password, second factor and sessions. */
export function MePage() {
  const { data: me } = useAnswer<Me>('/api/me');
  const { wantsFactor } = useFrame();
  if (!me) return <PageLoading title="You" shape="form" />;
  return (
    <PageAndMargin
      title={me.name}
      margin={
        <>
          <SecondFactor me={me} />
          <Password me={me} />
        </>
      }
    >
      <Text color="muted" mb="5">
        {me.email}, {me.role}
      </Text>
      {wantsFactor && (
        <Text role="alert" color="declined" fontWeight="550" mb="5">
          This business asks for a second factor: turn yours on at the right, and everything else opens.
        </Text>
      )}
      <Notices key={me.version} me={me} />
      <Box mt="7" maxW="760px">
        <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
          Where you are signed in
        </Text>
        <Sessions sessions={me.sessions} />
      </Box>
    </PageAndMargin>
  );
}

const SAY_DELIVERY: Readonly<Record<Delivery, string>> = {
  'at once': 'at once',
  daily: 'in one letter a day',
  off: 'not at all',
};

function Notices({ me }: { readonly me: Me }) {
  const acting = useAct();
  const choose = (kind: NoticeKind, delivery: Delivery) =>
    acting.act(
      () => put('/api/me/notices', { version: me.version, value: { ...me.notices, [kind]: delivery } }),
      'Stored.',
    );
  return (
    <Box maxW="760px">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        What you are told of by mail
      </Text>
      <Table.Root
        size="sm"
        aria-label="What you are told of by mail"
        bg="page"
        borderWidth="1px"
        borderColor="lines"
      >
        <Table.Body>
          {(Object.entries(NOTICE_KINDS) as [NoticeKind, string][]).map(([kind, says]) => (
            <Table.Row key={kind} h="36px" bg="page" role="radiogroup" aria-label={says}>
              <Table.Cell py="0">{says}</Table.Cell>
              {DELIVERIES.map((delivery) => (
                <Table.Cell key={delivery} py="0" whiteSpace="nowrap">
                  <label>
                    <input
                      type="radio"
                      name={kind}
                      checked={me.notices[kind] === delivery}
                      onChange={() => void choose(kind, delivery)}
                    />{' '}
                    {SAY_DELIVERY[delivery]}
                  </label>
                </Table.Cell>
              ))}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      <Outcome of={acting} />
    </Box>
  );
}

function Password({ me }: { readonly me: Me }) {
  const [current, setCurrent] = useState('');
  const [next, setNext] = useState('');
  const [faults, setFaults] = useState<Readonly<Record<string, string>>>({});
  const acting = useAct();
  const change = async () => {
    const parsed = newPasswordSchema.safeParse({ current, next });
    setFaults(
      parsed.success
        ? {}
        : Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('/'), message])),
    );
    if (!parsed.success) return;
    const says = 'Your password is changed. Your other sessions have ended.';
    if (await acting.act(() => put('/api/me/password', parsed.data), says)) {
      setCurrent('');
      setNext('');
    }
  };
  return (
    <>
      <MarginHeading>Password</MarginHeading>
      <Flex direction="column" gap="3">
        {me.hasPassword && (
          <TextField
            label="Your password now"
            type="password"
            autoComplete="current-password"
            value={current}
            error={faults.current ?? acting.problem?.at('/current')}
            onChange={(event) => setCurrent(event.target.value)}
          />
        )}
        <TextField
          label="A new one"
          type="password"
          autoComplete="new-password"
          hint={`At least ${SHORTEST_PASSWORD} characters; a few words are best.`}
          value={next}
          error={faults.next ?? acting.problem?.at('/next')}
          onChange={(event) => setNext(event.target.value)}
        />
      </Flex>
      <Button mt="3" size="xs" variant="outline" loading={acting.busy} onClick={() => void change()}>
        Change the password
      </Button>
      <Outcome of={acting} />
    </>
  );
}

function SecondFactor({ me }: { readonly me: Me }) {
  const [password, setPassword] = useState('');
  const [begun, setBegun] = useState<{ qr: string; letters: string } | null>(null);
  const [code, setCode] = useState('');
  const [codes, setCodes] = useState<readonly string[]>([]);
  const acting = useAct();
  const begin = () =>
    acting.act(async () => {
      setBegun(await post('/api/me/second-factor', { password }));
      setPassword('');
    });
  const confirm = () =>
    acting.act(async () => {
      const { recoveryCodes } = await post<{ recoveryCodes: string[] }>('/api/me/second-factor/confirm', {
        code,
      });
      setCodes(recoveryCodes);
      setBegun(null);
      setCode('');
    });
  return (
    <>
      <MarginHeading>Second factor</MarginHeading>
      {codes.length > 0 && (
        <Box role="status" mb="3">
          <Text>
            It is on. Keep these recovery codes apart from your device: each signs you in once, and they are
            not shown again.
          </Text>
          <Box as="ul" fontFamily="mono" fontSize="13px" listStyleType="none" p="0" mt="2">
            {codes.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </Box>
        </Box>
      )}
      {!me.secondFactor && !begun && (
        <Text mb="2">
          Off. With it, signing in also asks for a code of six digits from a device of yours.
        </Text>
      )}
      {me.secondFactor && codes.length === 0 && (
        <Text mb="2">On, with {me.recoveryCodesLeft} recovery codes left.</Text>
      )}
      {begun ? (
        <>
          <img
            src={begun.qr}
            alt="The secret as a QR code"
            width={180}
            height={180}
            style={{ background: 'white' }}
          />
          <Text fontSize="13px" mt="2" overflowWrap="anywhere">
            Scan it with an authenticator, or type: <code>{begun.letters}</code>
          </Text>
          <TextField
            label="The code it shows"
            inputMode="numeric"
            autoComplete="one-time-code"
            maxLength={8}
            value={code}
            error={acting.problem?.at('/code')}
            onChange={(event) => setCode(event.target.value)}
          />
          <Button mt="2" size="xs" colorPalette="kelp" loading={acting.busy} onClick={() => void confirm()}>
            Turn it on
          </Button>
        </>
      ) : (
        <>
          {me.hasPassword && (
            <TextField
              label="Your password, once more"
              type="password"
              autoComplete="current-password"
              value={password}
              error={acting.problem?.at('/password')}
              onChange={(event) => setPassword(event.target.value)}
            />
          )}
          {me.secondFactor && me.hasPassword && (
            <TextField
              label="A code of it"
              autoComplete="one-time-code"
              maxLength={40}
              hint="Six digits from your device, or a recovery code."
              value={code}
              error={acting.problem?.at('/code')}
              onChange={(event) => setCode(event.target.value)}
            />
          )}
          <Button
            mt="2"
            size="xs"
            variant="outline"
            loading={acting.busy}
            onClick={() =>
              void (me.secondFactor
                ? acting.act(async () => {
                    await post('/api/me/second-factor/off', { password, code });
                    setPassword('');
                    setCode('');
                    setCodes([]);
                  }, 'It is off.')
                : begin())
            }
          >
            {me.secondFactor ? 'Turn it off' : 'Begin'}
          </Button>
        </>
      )}
      <Outcome of={acting} />
    </>
  );
}
