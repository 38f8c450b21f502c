import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { DECLINE_CLASSES, type DeclineClass } from '../../../../core/recovery/declineCodes.ts';
import {
  classesOf,
  isTriable,
  MOST_DAYS,
  type Rung,
  type RungAct,
} from '../../../../core/recovery/ladder.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import type { KeyedRung } from './ladderDraft.ts';
import { LANES } from './LadderLine.tsx';

/** What else a class holds, beside what it is called. */
const HINTS: Readonly<Record<DeclineClass, string>> = {
  wait: 'or over a limit, or no reason given',
  soon: 'or the card network',
  ask: 'expired, or to be confirmed',
  never: 'or stolen',
};

/** What one rung does, and for which declines. */
export function RungFields({
  rung,
  at,
  faultAt,
  onChange,
  onRemove,
}: {
  readonly rung: KeyedRung;
  /** Its place in the ladder: faults are found by it. */
  readonly at: number;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<Rung>) => void;
  readonly onRemove: () => void;
}) {
  const pointer = `/policy/rungs/${at}`;
  const classes = classesOf(rung);
  const setAct = (kind: string) =>
    onChange({
      acts: (kind === '' ? undefined : kind === 'pause' ? { kind } : { kind: 'task', says: '' }) as RungAct,
    });
  const own = faultAt(pointer) ?? faultAt(`${pointer}/classes`) ?? faultAt(`${pointer}/retry`);
  return (
    <Flex gap="6" wrap="wrap" align="flex-start">
      <Box w="120px">
        <QuantityField
          label="Days after"
          field={`${pointer}/afterDays`}
          most={MOST_DAYS}
          value={String(rung.afterDays)}
          error={faultAt(`${pointer}/afterDays`)}
          onChange={(event) => onChange({ afterDays: Number(event.target.value) })}
        />
      </Box>
      <Box w="200px" role="group" aria-label="What it does" data-field={pointer} tabIndex={-1}>
        <Text fontWeight="500" mb="1">
          What it does
        </Text>
        <TickField
          label="Try the card again"
          checked={rung.retry}
          onChange={(retry) => onChange({ retry })}
        />
        <TickField
          label="Write to the customer"
          checked={rung.letter}
          onChange={(letter) => onChange({ letter })}
        />
        <TickField
          label="Tell staff"
          checked={rung.tellsStaff === true}
          onChange={(tellsStaff) => onChange({ tellsStaff })}
        />
        <Box mt="2">
          <SelectField
            label="And then"
            value={rung.acts?.kind ?? ''}
            onChange={(event) => setAct(event.target.value)}
          >
            <option value="">nothing more</option>
            <option value="pause">stop the service</option>
            <option value="task">give a person a task</option>
          </SelectField>
        </Box>
        {rung.acts?.kind === 'task' && (
          <Box mt="2">
            <TextField
              label="The task"
              maxLength={200}
              placeholder="Call them."
              field={`${pointer}/acts/says`}
              value={rung.acts.says}
              error={faultAt(`${pointer}/acts/says`)}
              onChange={(event) => onChange({ acts: { kind: 'task', says: event.target.value } })}
            />
          </Box>
        )}
        {own !== undefined && (
          <Text role="alert" color="declined" fontSize="13px" mt="1">
            {own}
          </Text>
        )}
      </Box>
      <Box flex="1" minW="240px" role="group" aria-label="For which declines">
        <Text fontWeight="500" mb="1">
          For which declines
        </Text>
        {DECLINE_CLASSES.map((one) => (
          <TickField
            key={one}
            label={
              <>
                {LANES[one]}
                <Text as="span" color="muted">
                  {' '}
                  {HINTS[one]}
                  {rung.retry && classes.includes(one) && !isTriable(one) ? '; the card is not tried' : ''}
                </Text>
              </>
            }
            checked={classes.includes(one)}
            onChange={(on) => {
              const next = DECLINE_CLASSES.filter((other) => (other === one ? on : classes.includes(other)));
              onChange({
                classes: next.length === DECLINE_CLASSES.length ? undefined : next,
              } as Partial<Rung>);
            }}
          />
        ))}
        <Button mt="2" size="xs" variant="outline" onClick={onRemove}>
          Take this rung away
        </Button>
      </Box>
    </Flex>
  );
}
