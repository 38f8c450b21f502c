import { Box, Button, Flex, Link as A, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { sayDate } from '../../../core/words/date.ts';
import type { GatewayAccountView, WhatStops } from '../../../server/gateways/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';
import { TextField } from '../../parts/TextField.tsx';
import { ReaderTest } from './ReaderTest.tsx';

/** The accounts at gateways: what each can do, how it stands, and ways to connect more. */
export function GatewaysPage() {
  const { role } = useFrame();
  const { data: accounts } = useAnswer<GatewayAccountView[]>('/api/gateways');
  const [params, setParams] = useSearchParams();
  const chosen = accounts?.find(({ id }) => id === params.get('account')) ?? accounts?.[0];
  const acting = useAct();
  const handOver = () =>
    acting.act(async () => {
      const { url } = await post<{ url: string }>('/api/gateways/hand-over');
      window.location.assign(url);
    });
  return (
    <PageAndMargin
      title="Gateways"
      action={
        role === 'owner' && (
          <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void handOver()}>
            Connect by hand-over
          </Button>
        )
      }
      marginLabel="The chosen account"
      margin={
        chosen ? (
          <Account key={`${chosen.id}${chosen.version}`} account={chosen} />
        ) : (
          <Text color="muted">
            A gateway moves the money. Connect an account by handing it over there, or by pasting its secret
            key.
          </Text>
        )
      }
    >
      <Outcome of={acting} />
      {accounts?.length === 0 && <Text py="4">No gateway is connected yet, so no money can move.</Text>}
      {accounts && accounts.length > 0 && (
        <Table.Root size="sm" aria-label="Gateway accounts" bg="page" borderWidth="1px" borderColor="lines">
          <Table.Header>
            <Table.Row bg="page">
              {['Account', 'Kind', 'State', 'Health', 'Cards kept'].map((heading) => (
                <Table.ColumnHeader key={heading} color="muted" fontWeight="500">
                  {heading}
                </Table.ColumnHeader>
              ))}
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {accounts.map((account) => (
              <Table.Row
                key={account.id}
                h="36px"
                tabIndex={0}
                cursor="pointer"
                aria-selected={account.id === chosen?.id}
                bg={account.id === chosen?.id ? 'kelp.subtle' : 'page'}
                onClick={() => setParams({ account: account.id }, { replace: true })}
                onKeyDown={(event) =>
                  event.key === 'Enter' && setParams({ account: account.id }, { replace: true })
                }
              >
                <Table.Cell py="0">
                  {account.name}
                  {account.takesNewCards && (
                    <Box as="span" color="muted">
                      {' '}
                      takes new cards
                    </Box>
                  )}
                </Table.Cell>
                <Table.Cell py="0">{account.kind}</Table.Cell>
                <Table.Cell py="0">{sayState(account)}</Table.Cell>
                <Table.Cell py="0" color={account.well ? undefined : 'declined'}>
                  {account.disconnectedOn !== null ? '' : account.well ? 'answers' : 'does not answer'}
                </Table.Cell>
                <Table.Cell py="0" textAlign="end">
                  {account.cards}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      {role === 'owner' && <PasteKey />}
    </PageAndMargin>
  );
}

function sayState({ disconnectedOn, facts }: GatewayAccountView): string {
  if (disconnectedOn !== null) return `disconnected on ${sayDate(disconnectedOn)}`;
  if (facts.mayCharge) return facts.mayPayOut ? 'may charge and pay out' : 'may charge, not pay out yet';
  return facts.asks.length > 0 ? 'more is asked for' : 'waits for the gateway’s checks';
}

function PasteKey() {
  const [key, setKey] = useState('');
  const acting = useAct();
  return (
    <Box maxW="460px" mt="8">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        Or paste a secret key
      </Text>
      <TextField
        label="Secret key of the account"
        type="password"
        autoComplete="off"
        value={key}
        error={acting.problem?.at('/key')}
        hint="It is stored encrypted and never shown again."
        onChange={(event) => setKey(event.target.value)}
      />
      <Button
        mt="2"
        size="sm"
        variant="outline"
        disabled={key.trim() === ''}
        loading={acting.busy}
        onClick={async () => {
          if (await acting.act(() => post('/api/gateways', { key }), 'Connected.')) setKey('');
        }}
      >
        Connect
      </Button>
      <Outcome of={acting} />
    </Box>
  );
}

function Account({ account }: { readonly account: GatewayAccountView }) {
  const { role } = useFrame();
  const acting = useAct();
  const { facts } = account;
  const connected = account.disconnectedOn === null;
  return (
    <>
      <MarginHeading>{account.name}</MarginHeading>
      <Text color="muted" fontSize="13px">
        {account.account}, connected on {sayDate(account.connectedOn)} by {sayHow(account.connectedBy)}
      </Text>
      <Text mt="2">
        {connected
          ? facts.says
          : 'Disconnected: its cards cannot be charged. Connect it again by its key or a hand-over.'}
      </Text>
      {connected && facts.asks?.length > 0 && (
        <Box as="ul" pl="4" listStyleType="disc">
          {facts.asks.map((ask) => (
            <li key={ask}>{ask}</li>
          ))}
        </Box>
      )}
      {facts.abilities && (
        <>
          <MarginHeading>What it can do</MarginHeading>
          <Fact name="Methods" says={facts.abilities.methods.join(', ')} />
          <Fact name="Currencies" says={facts.abilities.currencies.join(' ')} />
          <Fact name="Charge again by itself" says={facts.abilities.repeat ? 'yes' : 'no'} />
          <Fact name="Cards by telephone" says={facts.abilities.phone ? 'yes' : 'no: send a link instead'} />
          {facts.abilities.fees.map((fee) => (
            <Fact
              key={fee.currency}
              name={`Fee, ${fee.currency}`}
              says={`${fee.percent}% and ${fee.fixed} for each ${fee.method} payment`}
            />
          ))}
          <Fact
            name="Statement text"
            says={`at most ${facts.abilities.statementText.most} characters: ${facts.abilities.statementText.says}`}
          />
          <MarginHeading>Payouts</MarginHeading>
          {facts.payouts ? (
            <Text>
              To {facts.payouts.bank}, account ending {facts.payouts.ending}: the first after{' '}
              {facts.payouts.firstAfterDays} days, then {facts.payouts.rhythm}.
            </Text>
          ) : (
            <Text>No payout account has been named at the gateway yet.</Text>
          )}
        </>
      )}
      <MarginHeading>Health</MarginHeading>
      <Text>
        {account.well ? 'Answers' : account.health}, since {sayInstant(account.wellSince)}. Asked last{' '}
        {sayInstant(account.askedAt)}.
      </Text>
      {connected && (
        <Flex gap="2" mt="2" wrap="wrap">
          <Button
            size="xs"
            variant="outline"
            loading={acting.busy}
            onClick={() => void acting.act(() => post(`/api/gateways/${account.id}/test`), 'Asked just now.')}
          >
            Test the connection
          </Button>
          {role === 'owner' && (
            <Button
              size="xs"
              variant="outline"
              loading={acting.busy}
              onClick={() =>
                void acting.act(
                  () => post(`/api/gateways/${account.id}/rotate`),
                  'The webhook secret is new. The one before is taken for a day more.',
                )
              }
            >
              Rotate the webhook secret
            </Button>
          )}
          <A href={account.gatewayPage} target="_blank" rel="noreferrer" color="kelp.fg">
            Its page at the gateway
          </A>
        </Flex>
      )}
      <Outcome of={acting} />
      {connected && account.readerPage && <ReaderTest id={account.id} page={account.readerPage} />}
      {connected && role === 'owner' && <Disconnect account={account} />}
    </>
  );
}

const sayHow = (by: string) =>
  by === 'hand-over' ? 'hand-over' : by === 'environment' ? 'the key of the environment' : 'a pasted key';

function Fact({ name, says }: { readonly name: string; readonly says: string }) {
  return (
    <Flex gap="2" py="2px">
      <Box w="128px" flexShrink={0} color="muted">
        {name}
      </Box>
      <Box>{says}</Box>
    </Flex>
  );
}

function Disconnect({ account }: { readonly account: GatewayAccountView }) {
  const [asking, setAsking] = useState(false);
  const { data: stops } = useAnswer<WhatStops>(asking ? `/api/gateways/${account.id}/stops` : null);
  const acting = useAct();
  if (!asking) {
    return (
      <Button mt="6" size="xs" variant="outline" onClick={() => setAsking(true)}>
        Disconnect …
      </Button>
    );
  }
  return (
    <Box mt="6" borderLeftWidth="3px" borderColor="declined" pl="3" role="group" aria-label="Disconnect">
      <MarginHeading>What would stop</MarginHeading>
      {!stops && <Text>Looking …</Text>}
      {stops && (
        <>
          <Text>
            {stops.subscriptions === 0
              ? 'No running subscription is charged by it.'
              : `${stops.subscriptions} running subscriptions are charged by ${stops.cards} cards it keeps. What is due on them waits; nobody is written to and nothing counts as declined.`}
          </Text>
          {stops.rates.length > 0 && (
            <Text mt="1">
              No gateway would be left for {stops.rates.slice(0, 6).join('; ')}
              {stops.rates.length > 6 ? ` and ${stops.rates.length - 6} more rates` : ''}.
            </Text>
          )}
          <Flex gap="2" mt="3">
            <Button
              size="xs"
              colorPalette="red"
              loading={acting.busy}
              onClick={() =>
                void acting.act(() =>
                  post(`/api/gateways/${account.id}/disconnect`, { version: account.version }),
                )
              }
            >
              Disconnect {account.name}
            </Button>
            <Button size="xs" variant="outline" onClick={() => setAsking(false)}>
              Keep it
            </Button>
          </Flex>
        </>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
