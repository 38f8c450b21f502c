import { Box, Flex, RadioGroup, Text } from '@chakra-ui/react';
import { lazy, Suspense } from 'react';
import type { RateView } from '../../../../server/plans/messages.ts';
import type { MethodRole, MethodView } from '../../../../server/customers/methodMessages.ts';
import type { CardPurpose, GatewayAddress } from '../../../api/gateway.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import type { TypedBank } from '../../../parts/bank.ts';
import { CardFields } from '../../../parts/CardFields.tsx';
import { type CardFaults, type TypedCard } from '../../../parts/card.ts';
import { ReadOnReader } from '../../../parts/ReadOnReader.tsx';
import { SelectField } from '../../../parts/TextField.tsx';
import type { Paying, Pays } from './paying.ts';

/** Comes with what checks the number, only where somebody pays so. */
const BankFields = lazy(() => import('../../../parts/BankFields.tsx'));

const WAITS = {
  end: 'A card can wait: without one it ends with the trial.',
  pause: 'A card can wait: without one it rests after the trial.',
  invoice: 'A card can wait: without one it is paid by invoice after the trial.',
} as const;

const WAYS: Readonly<Record<Exclude<Pays, 'file'>, string>> = {
  typed: 'Card, typed here',
  reader: 'Card, read on the reader',
  bank: 'Bank account',
  mail: 'Card, asked for by mail',
  link: 'Card, by a link that I hand on',
  transfer: 'Online transfer',
  invoice: 'By invoice',
};

const SAYS: Readonly<Record<Pays, string>> = {
  file: '',
  typed: '',
  reader: '',
  bank: 'It is debited by itself; the banks answer some days after each debit.',
  mail: 'A letter goes out now, with a link to give a card; reminders after 3, 7 and 14 days. Until there is one nothing is charged, and it is no case.',
  link: 'The link stands on the page of the subscription once it is enrolled. Until there is a card nothing is charged, and it is no case.',
  transfer:
    'Nothing is charged by itself: each invoice is sent with a link, and is paid at the bank’s own page.',
  invoice: 'Nothing is charged by itself: each invoice is sent with a way to pay it.',
};

const ROLES: readonly { readonly value: MethodRole; readonly says: (kept: string) => string }[] = [
  { value: 'own', says: () => 'For this subscription alone' },
  { value: 'primary', says: (kept) => `For everything, in place of ${kept}` },
  { value: 'fallback', says: (kept) => `As the fallback after ${kept}` },
];

interface Props {
  readonly rate: RateView | undefined;
  readonly paying: Paying;
  /** Where a card for this rate is given. */
  readonly gateway: GatewayAddress | null;
  /** Other accounts that could keep it as well, and the one that was chosen; empty: the first. */
  readonly others: readonly GatewayAddress[];
  readonly keptAt: string;
  readonly onKeptAt: (id: string) => void;
  /** Where a bank account is given, and what is typed of it. */
  readonly bankGateway: GatewayAddress | null;
  readonly bank: TypedBank;
  readonly bankFaults: { readonly iban?: string | undefined; readonly holder?: string | undefined };
  readonly onBank: (bank: TypedBank) => void;
  /** The card on file that can be charged, in words. */
  readonly kept: string | null;
  readonly card: TypedCard;
  readonly faults: CardFaults & { readonly pays: string | undefined };
  readonly onPays: (pays: Pays) => void;
  readonly onCard: (card: TypedCard) => void;
  /** The methods that the customer has, in their turn. */
  readonly methods: readonly MethodView[];
  readonly methodId: string;
  readonly onMethod: (id: string) => void;
  readonly cardRole: MethodRole;
  readonly onRole: (role: MethodRole) => void;
  readonly purpose: CardPurpose;
  readonly hasRead: boolean;
  readonly onRead: (token: string) => void;
}

/** What the customer pays with: a card on file, one that is typed, one that is asked for or can wait, or by invoice. */
export function PayFields(props: Props) {
  const { rate, paying, gateway, kept, card, faults, onPays, onCard, methods } = props;
  const { practice } = useFrame();
  const { way, ways, trialWaits } = paying;
  return (
    <Box data-field="pays">
      <Text fontWeight="500" id="method-of-payment">
        Method
      </Text>
      <RadioGroup.Root
        aria-labelledby="method-of-payment"
        colorPalette="kelp"
        size="sm"
        value={way}
        onValueChange={({ value }) => value !== null && onPays(value as Pays)}
      >
        <Flex columnGap="5" rowGap="1" wrap="wrap" py="1">
          {ways.map((one) => (
            <RadioGroup.Item key={one} value={one}>
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator />
              <RadioGroup.ItemText>
                {one === 'file' ? `${kept ?? 'Card'}, on file` : WAYS[one]}
              </RadioGroup.ItemText>
            </RadioGroup.Item>
          ))}
        </Flex>
      </RadioGroup.Root>
      {faults.pays !== undefined && (
        <Text role="alert" color="fg.error" fontSize="13px">
          {faults.pays}
        </Text>
      )}
      {SAYS[way] !== '' && (
        <Text color="muted" fontSize="13px">
          {SAYS[way]}
        </Text>
      )}
      {way === 'file' && methods.length > 1 && (
        <SelectField
          label="Which one"
          field="methodId"
          w="320px"
          value={props.methodId}
          onChange={(event) => props.onMethod(event.target.value)}
        >
          {methods.map(({ id, role, says }) => (
            <option key={id} value={role === 'primary' ? '' : id}>
              {role === 'primary' ? `${says}, as for everything` : `${says}, for this alone`}
            </option>
          ))}
        </SelectField>
      )}
      {way === 'reader' && (
        <Box mt="2">
          <ReadOnReader purpose={props.purpose} hasRead={props.hasRead} onRead={props.onRead} />
        </Box>
      )}
      {way === 'typed' && (
        <Box mt="2">
          {trialWaits && rate && (
            <Text color="muted" mb="1">
              {WAITS[trialWaits]}
            </Text>
          )}
          <CardFields card={card} onChange={onCard} faults={faults} gateway={gateway} practice={practice} />
          {props.others.length > 0 && (
            <Box mt="2">
              <SelectField
                label="Kept at"
                field="keptAt"
                w="320px"
                hint="The gateway account that keeps the card, and charges it."
                value={props.keptAt}
                onChange={(event) => props.onKeptAt(event.target.value)}
              >
                <option value="">{gateway?.name ?? 'the first'}, as usual</option>
                {props.others.map(({ id = '', name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </SelectField>
            </Box>
          )}
        </Box>
      )}
      {way === 'bank' && (
        <Box mt="2">
          <Suspense fallback={<Text color="muted">Loading …</Text>}>
            <BankFields
              bank={props.bank}
              onChange={props.onBank}
              faults={props.bankFaults}
              gateway={props.bankGateway}
              practice={practice}
            />
          </Suspense>
        </Box>
      )}
      {(way === 'typed' || way === 'reader' || way === 'bank') && kept !== null && (
        <RadioGroup.Root
          aria-label="What it is for"
          colorPalette="kelp"
          size="sm"
          mt="2"
          value={props.cardRole}
          onValueChange={({ value }) => value !== null && props.onRole(value as MethodRole)}
        >
          <Flex columnGap="5" rowGap="1" wrap="wrap">
            {ROLES.map(({ value, says }) => (
              <RadioGroup.Item key={value} value={value}>
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator />
                <RadioGroup.ItemText>{says(kept)}</RadioGroup.ItemText>
              </RadioGroup.Item>
            ))}
          </Flex>
        </RadioGroup.Root>
      )}
    </Box>
  );
}
