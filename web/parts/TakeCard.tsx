import { Box, Button, RadioGroup, Text } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import { useSWRConfig } from 'swr';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { MethodKind, MethodView } from '../../server/customers/methodMessages.ts';
import type { MethodTaken } from '../../server/recovery/newMethod.ts';
import type { Debt } from '../../server/recovery/messages.ts';
import { post, Problem } from '../api/client.ts';
import { giveCard, tokenForBank } from '../api/gateway.ts';
import { useAnswer, useGateways } from '../api/hooks.ts';
import { MarginHeading } from '../frame/PageAndMargin.tsx';
import { useFrame } from '../frame/useFrame.ts';
import { faultsOfBank, NO_BANK } from './bank.ts';
import { CardFields } from './CardFields.tsx';
import { entryOf, faultsOfCard, NO_CARD, type CardFaults } from './card.ts';
import { CardOrBank } from './CardOrBank.tsx';
import { ReadOnReader } from './ReadOnReader.tsx';

interface Props {
  readonly customerId: string;
}

/** Comes with what checks the number, only where somebody pays so. */
const BankFields = lazy(() => import('./BankFields.tsx'));

type Role = 'primary' | 'fallback';

/** Takes a card or a bank account from a customer on the phone or at the counter, and says first what will be charged to it at once. */
export function TakeCard({ customerId }: Props) {
  const { data: owed = [] } = useAnswer<Debt[]>(`/api/customers/${customerId}/debts`);
  const debts = owed.filter(({ underWay }) => !underWay);
  const { data: methods = [] } = useAnswer<MethodView[]>(`/api/customers/${customerId}/methods`);
  const { practice, businessDate } = useFrame();
  const { gateway, takesCards, bank: bankGateway } = useGateways({ customerId });
  const { mutate } = useSWRConfig();
  const [card, setCard] = useState(NO_CARD);
  const [role, setRole] = useState<Role>('primary');
  const [read, setRead] = useState<string | null>(null);
  const [wants, setWants] = useState<MethodKind>('card');
  const [bank, setBank] = useState(NO_BANK);
  const [bankFaults, setBankFaults] = useState<{ iban?: string; holder?: string }>({});
  const [faults, setFaults] = useState<CardFaults>({});
  const [busy, setBusy] = useState(false);
  const [says, setSays] = useState<{ good: boolean; text: string } | null>(null);
  const inUse = (of: Role) => methods.find((one) => one.role === of && one.state !== 'replaced');
  const primary = inUse('primary');
  const fallback = inUse('fallback');

  const kind = bankGateway === null ? 'card' : takesCards ? wants : 'bank account';

  const take = async (token: () => Promise<string>, isRead: boolean) => {
    setBusy(true);
    setSays(null);
    try {
      const of = isRead ? 'card' : kind;
      const body = {
        token: await token(),
        kind: of,
        role: primary ? role : 'primary',
        read: isRead,
      } as const;
      const taken = await post<MethodTaken>(`/api/customers/${customerId}/card`, body);
      setCard(NO_CARD);
      setBank(NO_BANK);
      setRead(null);
      setSays({
        good: taken.charged.every(({ outcome }) => GOOD.includes(outcome)),
        text: sayTaken(taken, body.role),
      });
      await mutate(() => true);
    } catch (error) {
      setRead(null);
      const problem = error instanceof Problem ? error : null;
      const ofToken = isRead ? undefined : problem?.at('/token');
      const number = problem?.at('/card/number') ?? (kind === 'card' ? ofToken : undefined);
      const expires = problem?.at('/card/expires') ?? problem?.at('/token/expires');
      const nameOnCard = problem?.at('/token/holder');
      const iban = problem?.at('/bank/iban') ?? (kind === 'bank account' ? ofToken : undefined);
      const holder = problem?.at('/bank/holder');
      if (number || expires || nameOnCard) setFaults({ number, expires, holder: nameOnCard });
      else if (iban || holder) setBankFaults({ ...(iban ? { iban } : {}), ...(holder ? { holder } : {}) });
      else setSays({ good: false, text: problem?.message ?? 'The card was not taken.' });
    } finally {
      setBusy(false);
    }
  };
  const takeTyped = () => {
    if (kind === 'bank account') {
      const wrong = faultsOfBank(bank);
      setBankFaults(wrong);
      if (Object.keys(wrong).length === 0) void take(() => tokenForBank(bankGateway, bank), false);
      return;
    }
    const found = faultsOfCard(card, businessDate, gateway);
    setFaults(found);
    const entry = entryOf(card);
    if (Object.keys(found).length > 0 || entry === null) return;
    void take(() => giveCard({ customerId }, entry, businessDate), false);
  };
  const takeRead = (token: string) => {
    setRead(token);
    void take(() => Promise.resolve(token), true);
  };

  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        takeTyped();
      }}
    >
      <MarginHeading>{sayHeading(primary !== undefined, bankGateway !== null)}</MarginHeading>
      {bankGateway && takesCards && <CardOrBank kind={kind} onChange={setWants} />}
      {kind === 'card' ? (
        <CardFields card={card} onChange={setCard} faults={faults} gateway={gateway} practice={practice} />
      ) : (
        <Suspense fallback={<Text color="muted">Loading …</Text>}>
          <BankFields
            bank={bank}
            onChange={setBank}
            faults={bankFaults}
            gateway={bankGateway}
            practice={practice}
          />
        </Suspense>
      )}
      {primary && (
        <RadioGroup.Root
          aria-label="What it is to be"
          size="sm"
          mt="3"
          colorPalette="kelp"
          value={role}
          onValueChange={({ value }) => value !== null && setRole(value as Role)}
        >
          {ROLES.map(({ value, says: what }) => (
            <RadioGroup.Item key={value} value={value} alignItems="flex-start" py="0.5">
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator mt="1" />
              <RadioGroup.ItemText>{what(primary.says, fallback?.says)}</RadioGroup.ItemText>
            </RadioGroup.Item>
          ))}
        </RadioGroup.Root>
      )}
      {debts.length > 0 && (
        <Box mt="4">
          <Text fontWeight="600">Charged to it at once:</Text>
          {debts.map((debt) => (
            <Box key={debt.number} display="flex" justifyContent="space-between">
              <span>
                Invoice {debt.number}, due {sayDate(debt.dueOn)}
              </span>
              <span>{sayAmount(BigInt(debt.owed), debt.currency)}</span>
            </Box>
          ))}
        </Box>
      )}
      <Button type="submit" mt="4" mb="2" size="sm" colorPalette="kelp" loading={busy}>
        {kind === 'card' ? 'Take the card' : 'Take the account'}
        {debts.length > 0 && (kind === 'card' ? ' and charge it' : ' and debit it')}
      </Button>
      {kind === 'card' && <ReadOnReader purpose={{ customerId }} hasRead={read !== null} onRead={takeRead} />}
      <Text role="status" mt="2" color={says?.good ? 'collected' : 'declined'}>
        {says?.text ?? ''}
      </Text>
    </form>
  );
}

const ROLES: readonly {
  readonly value: Role;
  readonly says: (primary: string, fallback: string | undefined) => string;
}[] = [
  { value: 'primary', says: (primary) => `In place of ${primary}` },
  {
    value: 'fallback',
    says: (_, fallback) =>
      fallback
        ? `As the fallback, in place of ${fallback}`
        : 'As a fallback, tried when the first is declined',
  },
];

/** What is taken: a card, or whatever there may be. */
function sayHeading(hasOne: boolean, takesBank: boolean): string {
  if (takesBank) return hasOne ? 'Take another way to pay' : 'Take a way to pay';
  return hasOne ? 'Take another card' : 'Take a card';
}

/** Outcomes after which nothing is to be done here. */
const GOOD: readonly string[] = ['collected', 'under way', 'waits for the cardholder'];

function sayTaken({ card, charged }: MethodTaken, role: Role): string {
  const outcomes = charged.map(({ invoice, outcome }) => `invoice ${invoice}: ${outcome}`).join('; ');
  const kept = role === 'fallback' ? `Kept as the fallback: ${card}.` : `From now on: ${card}.`;
  return `${kept}${outcomes ? ` ${outcomes}.` : ''}`;
}
