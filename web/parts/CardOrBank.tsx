import { Flex, RadioGroup } from '@chakra-ui/react';
import type { MethodKind } from '../../server/customers/methodMessages.ts';

const SAYS: Readonly<Record<MethodKind, string>> = { card: 'Card', 'bank account': 'Bank account' };

interface Props {
  readonly kind: MethodKind;
  readonly onChange: (kind: MethodKind) => void;
  readonly label?: string;
  readonly says?: Readonly<Record<MethodKind, string>>;
}

/** Whether a card or a bank account is given, where either may be. */
export function CardOrBank({ kind, onChange, label = 'What is given', says = SAYS }: Props) {
  return (
    <RadioGroup.Root
      aria-label={label}
      size="sm"
      mb="3"
      colorPalette="kelp"
      value={kind}
      onValueChange={({ value }) => value !== null && onChange(value as MethodKind)}
    >
      <Flex gap="5">
        {(Object.keys(SAYS) as MethodKind[]).map((one) => (
          <RadioGroup.Item key={one} value={one}>
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator />
            <RadioGroup.ItemText>{says[one]}</RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </Flex>
    </RadioGroup.Root>
  );
}
