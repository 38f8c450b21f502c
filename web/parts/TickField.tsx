import { Checkbox } from '@chakra-ui/react';
import type { ReactNode } from 'react';

interface Props {
  readonly label: ReactNode;
  readonly checked: boolean;
  readonly disabled?: boolean;
  readonly onChange: (on: boolean) => void;
}

/** A box to tick, with what it says beside it. */
export function TickField({ label, checked, disabled = false, onChange }: Props) {
  return (
    <Checkbox.Root
      display="flex"
      py="1"
      colorPalette="kelp"
      checked={checked}
      disabled={disabled}
      onCheckedChange={({ checked: on }) => onChange(on === true)}
    >
      <Checkbox.HiddenInput />
      <Checkbox.Control />
      <Checkbox.Label fontWeight="400">{label}</Checkbox.Label>
    </Checkbox.Root>
  );
}
