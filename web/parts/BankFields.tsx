import { Box, Flex, Text } from '@chakra-ui/react';
import { electronicFormatIBAN, friendlyFormatIBAN, isValidIBAN } from 'ibantools';
import { practiceAccounts, type GatewayAddress } from '../api/gateway.ts';
import { WORDS as ENGLISH } from '../../core/words/ownPage/en.ts';
import type { OwnWords } from '../../core/words/ownPage/words.ts';
import type { TypedBank } from './bank.ts';
import { Practice } from './Practice.tsx';
import { TextField } from './TextField.tsx';

interface Props {
  readonly bank: TypedBank;
  readonly onChange: (bank: TypedBank) => void;
  readonly faults: { readonly iban?: string | undefined; readonly holder?: string | undefined };
  readonly gateway: GatewayAddress | null;
  /** Offers the practice accounts, which the stand-in knows. */
  readonly practice: boolean;
  /** In the language of whoever gives it; English for staff. */
  readonly words?: OwnWords['bank'];
}

/** So many signs the shortest IBAN has (ISO 13616): fewer are still being typed. */
const SHORTEST = 15;

/** The fields of a bank account. What is typed here goes to the gateway alone, and is not kept. */
export default function BankFields(props: Props) {
  const { bank, onChange, faults, gateway, practice, words = ENGLISH.bank } = props;
  const plain = electronicFormatIBAN(bank.iban) ?? '';
  const wrong = plain.length >= SHORTEST && !isValidIBAN(plain) ? words.badIban : undefined;
  const type = (iban: string) =>
    onChange({ ...bank, iban, isGood: isValidIBAN(electronicFormatIBAN(iban) ?? '') });
  return (
    <Box>
      <Flex gap="3" align="flex-start" wrap="wrap">
        <Box flex="2" minW="240px">
          <TextField
            label="IBAN"
            field="iban"
            autoComplete="off"
            autoCapitalize="characters"
            spellCheck={false}
            maxLength={60}
            value={bank.iban}
            error={wrong ?? faults.iban}
            onChange={(event) => type(event.target.value)}
            onBlur={() => bank.isGood && type(friendlyFormatIBAN(plain) ?? bank.iban)}
          />
        </Box>
        <Box flex="1" minW="180px">
          <TextField
            label={words.holder}
            field="bankHolder"
            autoComplete="off"
            maxLength={140}
            value={bank.holder}
            error={faults.holder}
            onChange={(event) => onChange({ ...bank, holder: event.target.value })}
          />
        </Box>
      </Flex>
      <Text color="muted" mt="2" fontSize="13px">
        {words.note}
      </Text>
      {practice && (
        <Practice
          label="Practice accounts"
          of={['practice accounts', gateway?.url]}
          read={async () =>
            (await practiceAccounts(gateway)).map(({ iban, description }) => ({ number: iban, description }))
          }
          onTake={(iban) =>
            onChange({
              iban: friendlyFormatIBAN(iban) ?? iban,
              holder: bank.holder || 'Ada Ashgrove',
              isGood: true,
            })
          }
        />
      )}
    </Box>
  );
}
