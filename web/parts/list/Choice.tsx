import { NativeSelect } from '@chakra-ui/react';

/** A filter of a list: one of several, or all, where that may be asked for. */
export function Choice(props: {
  readonly label: string;
  readonly all?: string;
  readonly value: string;
  readonly choices: readonly (readonly [value: string, says: string])[];
  readonly onChange: (value: string) => void;
}) {
  const { label, all, value, choices, onChange } = props;
  return (
    <NativeSelect.Root size="sm" w="150px">
      <NativeSelect.Field aria-label={label} value={value} onChange={(event) => onChange(event.target.value)}>
        {all !== undefined && <option value="">{all}</option>}
        {choices.map(([choice, says]) => (
          <option key={choice} value={choice}>
            {says}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}
