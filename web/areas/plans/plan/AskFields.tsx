import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { ASK_KINDS } from '../../../../server/plans/choiceMessages.ts';
import { AreaField, SelectField, TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import { Part } from '../../../parts/Part.tsx';
import { NEW_ASK, type AskDraft } from './askDraft.ts';

interface Props {
  readonly asks: readonly AskDraft[];
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (asks: readonly AskDraft[]) => void;
  readonly title?: string;
}

/** What is asked of everybody who takes the plan. */
export function AskFields({ asks, faultAt, onChange, title = 'Asked at enrolment' }: Props) {
  const set = (at: number, to: Partial<AskDraft>) =>
    onChange(asks.map((one, i) => (i === at ? { ...one, ...to } : one)));
  return (
    <Part title={title}>
      {asks.map((ask, i) => (
        <Box key={i} role="group" aria-label={`Question ${i + 1}`} mb="4">
          <Flex gap="3" align="flex-start" wrap="wrap">
            <Box w="220px">
              <TextField
                label="Asked"
                maxLength={80}
                placeholder="such as Size of the veil"
                value={ask.label}
                error={faultAt(`/asks/${i}/label`)}
                onChange={(event) => set(i, { label: event.target.value })}
              />
            </Box>
            <Box w="160px">
              <SelectField
                label="Answered by"
                value={ask.kind}
                onChange={(event) => set(i, { kind: event.target.value as AskDraft['kind'] })}
              >
                {Object.entries(ASK_KINDS).map(([kind, says]) => (
                  <option key={kind} value={kind}>
                    {says}
                  </option>
                ))}
              </SelectField>
            </Box>
            <Box w="200px">
              <TextField
                label="Hint"
                maxLength={200}
                value={ask.hint}
                error={faultAt(`/asks/${i}/hint`)}
                onChange={(event) => set(i, { hint: event.target.value })}
              />
            </Box>
            <Box pt="6">
              <TickField
                label="required"
                checked={ask.required}
                onChange={(required) => set(i, { required })}
              />
            </Box>
            <Button mt="7" size="xs" variant="ghost" onClick={() => onChange(asks.filter((_, j) => j !== i))}>
              Take out
            </Button>
          </Flex>
          {ask.kind === 'choice' && (
            <Box w="220px" mt="2">
              <AreaField
                label="To choose from, one a line"
                rows={3}
                value={ask.choices}
                error={faultAt(`/asks/${i}/choices`)}
                onChange={(event) => set(i, { choices: event.target.value })}
              />
            </Box>
          )}
        </Box>
      ))}
      {asks.length === 0 && (
        <Text color="muted" mb="2">
          Nothing beside what Setup asks of every customer.
        </Text>
      )}
      <Button size="xs" variant="outline" onClick={() => onChange([...asks, NEW_ASK])}>
        Ask something
      </Button>
    </Part>
  );
}
