import { Box, Button, Checkbox, Flex, Text } from '@chakra-ui/react';
import { TextField } from '../../parts/TextField.tsx';

interface OwnField {
  readonly label: string;
  readonly required: boolean;
}

interface Props {
  readonly fields: readonly OwnField[];
  readonly most: number;
  /** What is wrong, by its path below `fields`: `0.label`; empty: of all together. */
  readonly faultAt: (path: string) => string | undefined;
  readonly onChange: (fields: OwnField[]) => void;
}

/** Fields of the business's own: what each is called, and whether it must be filled. */
export function OwnFieldsEditor({ fields, most, faultAt, onChange }: Props) {
  const set = (at: number, to: Partial<OwnField>) =>
    onChange(fields.map((one, i) => (i === at ? { ...one, ...to } : one)));
  return (
    <Box>
      {fields.map(({ label, required }, i) => (
        <Flex key={i} gap="3" align="flex-start" mb="2">
          <TextField
            label={`Field ${i + 1}`}
            maxLength={60}
            value={label}
            error={faultAt(`${i}.label`)}
            onChange={(event) => set(i, { label: event.target.value })}
          />
          <Checkbox.Root
            colorPalette="kelp"
            mt="8"
            checked={required}
            onCheckedChange={({ checked }) => set(i, { required: checked === true })}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control />
            <Checkbox.Label>required</Checkbox.Label>
          </Checkbox.Root>
          <Button
            mt="7"
            size="xs"
            variant="ghost"
            onClick={() => onChange(fields.filter((_, at) => at !== i))}
          >
            Take out
          </Button>
        </Flex>
      ))}
      <Text color="declined">{faultAt('') ?? faultAt('root')}</Text>
      {fields.length < most && (
        <Button
          size="xs"
          variant="outline"
          onClick={() => onChange([...fields, { label: '', required: false }])}
        >
          Add a field
        </Button>
      )}
    </Box>
  );
}
