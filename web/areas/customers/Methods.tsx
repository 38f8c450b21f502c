import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { sayDate } from '../../../core/words/date.ts';
import type { MethodView, WithdrawalEffect } from '../../../server/customers/methodMessages.ts';
import type { MethodTaken } from '../../../server/recovery/newMethod.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct, type Acting } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { TextField } from '../../parts/TextField.tsx';

/** What a customer pays with: each method with its mandate, what it is for, and what can be done with it. */
export function Methods({ customerId }: { readonly customerId: string }) {
  const { data: methods } = useAnswer<MethodView[]>(`/api/customers/${customerId}/methods`);
  const [showsFormer, setShowsFormer] = useState(false);
  if (!methods) return null;
  const inUse = methods.filter(({ state }) => state !== 'replaced');
  const former = methods.filter(({ state }) => state === 'replaced');
  return (
    <Box as="section" aria-label="Ways to pay" mt="6">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        Ways to pay
      </Text>
      {inUse.length === 0 && <Text color="muted">There is none: nothing can be charged by itself.</Text>}
      {inUse.map((one) => (
        <Method key={one.id} one={one} of={inUse} customerId={customerId} />
      ))}
      {former.length > 0 && (
        <Button
          size="xs"
          variant="ghost"
          aria-expanded={showsFormer}
          onClick={() => setShowsFormer(!showsFormer)}
        >
          {former.length === 1
            ? 'One that is not used any more'
            : `${former.length} that are not used any more`}
        </Button>
      )}
      {showsFormer &&
        former.map((one) => (
          <Text key={one.id} color="muted" fontSize="13px" ps="2">
            {one.says}: {sayMandate(one)}
            {one.mandate?.withdrawnOn ? '' : ' Replaced since.'}
          </Text>
        ))}
    </Box>
  );
}

interface Props {
  readonly one: MethodView;
  readonly of: readonly MethodView[];
  readonly customerId: string;
}

function Method({ one, of, customerId }: Props) {
  const [open, setOpen] = useState<'withdraw' | 'expiry' | null>(null);
  const acting = useAct();
  const { role } = useFrame();
  const path = `/api/customers/${customerId}/methods/${one.id}`;
  const check = () =>
    acting.act(async () => {
      await post(`${path}/checks`);
    }, 'Checked: the answer stands above.');
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" px="4" py="2" mb="2">
      <Flex gap="3" align="baseline" wrap="wrap">
        <Text fontWeight="600">{one.says}</Text>
        <Text>{sayRole(one, of)}</Text>
        <Text
          ml="auto"
          color={one.state === 'usable' && !one.hasExpired && one.connected ? 'muted' : 'declined'}
        >
          {sayState(one)}
        </Text>
      </Flex>
      <Text color="muted" fontSize="13px">
        {one.holder !== '' && `In the name of ${one.holder}. `}
        {sayMandate(one)} Kept at {one.account}.
        {one.renewedOn !== null && ` Renewed by its bank on ${sayDate(one.renewedOn)}.`}
        {one.check && (
          <Box as="span" color={one.check.good ? undefined : 'declined'}>
            {` Checked on ${sayDate(one.check.on)}: ${one.check.says}.`}
          </Box>
        )}
      </Text>
      {one.mandate && (
        <Box as="details" fontSize="13px" color="muted">
          <summary>What was agreed</summary>“{one.mandate.agreedText}”
          {one.mandate.address !== '' && ` From ${one.mandate.address}.`}
        </Box>
      )}
      <ForWriters>
        <Flex gap="2" mt="1" wrap="wrap">
          {one.role !== 'primary' && (
            <Small
              onClick={() =>
                void acting.act(() => post(`${path}/primary`), `${one.says} is charged first from now on.`)
              }
            >
              Make it the first
            </Small>
          )}
          {one.connected && one.kind === 'card' && (
            <Small loading={acting.busy} onClick={() => void check()}>
              Check it, without a charge
            </Small>
          )}
          {one.connected && one.kind === 'card' && one.state !== 'barred' && (
            <Small expanded={open === 'expiry'} onClick={() => setOpen(open === 'expiry' ? null : 'expiry')}>
              New expiry
            </Small>
          )}
          <Small
            expanded={open === 'withdraw'}
            onClick={() => setOpen(open === 'withdraw' ? null : 'withdraw')}
          >
            Withdraw
          </Small>
        </Flex>
      </ForWriters>
      {open === 'withdraw' && role !== 'reader' && (
        <Withdraw path={path} acting={acting} onDone={() => setOpen(null)} />
      )}
      {open === 'expiry' && <NewExpiry path={path} acting={acting} onDone={() => setOpen(null)} />}
      <Outcome of={acting} />
    </Box>
  );
}

function Small(props: {
  readonly onClick: () => void;
  readonly loading?: boolean;
  readonly expanded?: boolean;
  readonly children: string;
}) {
  const { onClick, loading = false, expanded, children } = props;
  return (
    <Button
      size="2xs"
      variant="outline"
      loading={loading}
      onClick={onClick}
      {...(expanded === undefined ? {} : { 'aria-expanded': expanded })}
    >
      {children}
    </Button>
  );
}

interface Doing {
  readonly path: string;
  readonly acting: Acting;
  readonly onDone: () => void;
}

/** Withdraws a mandate, once what that does has been read. */
function Withdraw({ path, acting, onDone }: Doing) {
  const { data: effect } = useAnswer<WithdrawalEffect>(`${path}/withdrawal`);
  if (!effect) return null;
  const withdraw = async () => {
    if (await acting.act(() => post(`${path}/withdrawal`))) onDone();
  };
  return (
    <Box mt="2" ps="3" borderLeftWidth="2px" borderColor="declined">
      <Text>{effect.card} is never charged again, and the customer is written to.</Text>
      {effect.goesOn.map(({ plan, with: other }, i) => (
        <Text key={i}>
          {plan} is charged to {other} from then on.
        </Text>
      ))}
      {effect.primary && <Text>{effect.primary} becomes the first.</Text>}
      {effect.left.length > 0 && (
        <Text color="declined" fontWeight="600">
          Nothing is left to charge for {effect.left.join(', ')}: the next payment becomes a case.
        </Text>
      )}
      {effect.underWay > 0 && (
        <Text>A charge that is under way is asked about still; it is not taken back.</Text>
      )}
      <Flex gap="2" mt="2" mb="1">
        <Button size="xs" colorPalette="red" loading={acting.busy} onClick={() => void withdraw()}>
          Withdraw the mandate for {effect.card}
        </Button>
        <Button size="xs" variant="outline" onClick={onDone}>
          Keep it
        </Button>
      </Flex>
    </Box>
  );
}

/** Takes the month that is printed on a card issued anew with the same number. */
function NewExpiry({ path, acting, onDone }: Doing) {
  const [typed, setTyped] = useState('');
  const match = /^\s*(0?[1-9]|1[0-2])\s*\/\s*(?:20)?(\d{2})\s*$/.exec(typed);
  const [tried, setTried] = useState(false);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    setTried(true);
    if (!match) return;
    const to = { expiresMonth: Number(match[1]), expiresYear: 2000 + Number(match[2]) };
    let taken: MethodTaken | null = null;
    const isDone = await acting.act(async () => {
      taken = await put<MethodTaken>(`${path}/expiry`, to);
    }, 'The expiry was changed, and the card checked.');
    if (isDone && taken) onDone();
  };
  const unread = tried && !match ? 'Give month and year as on the card, such as 08/29.' : undefined;
  return (
    <form noValidate onSubmit={(event) => void send(event)}>
      <Flex gap="2" mt="2" align="flex-end">
        <Box w="150px">
          <TextField
            label="Expires now"
            field="expires"
            placeholder="MM/YY"
            autoComplete="off"
            maxLength={20}
            value={typed}
            error={unread ?? acting.problem?.at('/expires') ?? acting.problem?.at('/expiresYear')}
            onChange={(event) => setTyped(event.target.value)}
          />
        </Box>
        <Button type="submit" size="xs" colorPalette="kelp" mb="1" loading={acting.busy}>
          Change it, and charge what is open
        </Button>
      </Flex>
    </form>
  );
}

function sayRole({ role, own }: MethodView, of: readonly MethodView[]): string {
  const first = own.length > 0 ? `first for ${own.map(({ plan }) => plan).join(', ')}` : '';
  if (role === 'own') return first === '' ? 'for nothing at present' : `${first} alone`;
  const what = role === 'fallback' ? 'the fallback, tried after the first' : of.length > 1 ? 'the first' : '';
  return [what, first].filter(Boolean).join('; ');
}

function sayState({ kind, state, hasExpired, expires, connected }: MethodView): string {
  if (!connected) return 'its gateway account is disconnected';
  if (state === 'barred') return 'must not be charged again';
  if (state === 'needs-customer') return 'only its holder can mend it';
  if (kind === 'bank account') return 'debited by itself';
  return hasExpired ? `expired ${expires}` : `expires ${expires}`;
}

const GIVEN: Readonly<Record<string, string>> = {
  customer: 'Given by the customer online',
  staff: 'Told to staff by phone or post',
  reader: 'Read on the reader',
  import: 'Brought in by an import',
};

function sayMandate({ mandate, addedOn }: MethodView): string {
  if (!mandate) return `Added on ${sayDate(addedOn)}, without a mandate.`;
  const { channel, givenOn, withdrawnOn, withdrawnBy } = mandate;
  const given = `${GIVEN[channel] ?? 'Given'} on ${sayDate(givenOn)}.`;
  if (withdrawnOn === null) return given;
  return `${given} Withdrawn by ${withdrawnBy === 'staff' ? 'staff' : 'the customer'} on ${sayDate(withdrawnOn)}.`;
}
