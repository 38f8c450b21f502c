import { Box, Flex, Text } from '@chakra-ui/react';
import { SelectField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import { Part } from '../../../parts/Part.tsx';
import type { MayDoDraft } from './planDraft.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';

interface Props {
  readonly mayDo: MayDoDraft;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<MayDoDraft>) => void;
}

/** What customers may do alone on their own page; all of it shows them the effect first. */
export function MayDoFields({ mayDo, faultAt, onChange }: Props) {
  const bind = (name: 'cancelAfter' | 'pauseMost' | 'quantityMost') => ({
    value: mayDo[name],
    error: faultAt(`/mayDo/${name}`),
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  const tick = (
    name: 'pause' | 'skip' | 'quantity' | 'variant' | 'code' | 'instalmentsToo',
    label: string,
  ) => <TickField label={label} checked={mayDo[name]} onChange={(on) => onChange({ [name]: on })} />;
  return (
    <Part title="What customers may do alone">
      <Flex gap="3" align="flex-start" wrap="wrap">
        <Box w="240px">
          <SelectField
            label="End it"
            value={mayDo.cancel}
            onChange={(event) => onChange({ cancel: event.target.value as MayDoDraft['cancel'] })}
          >
            <option value="period end">at the end of the period paid</option>
            <option value="now">at once</option>
            <option value="after payments">after a number of payments</option>
            <option value="never">never: they write to us</option>
          </SelectField>
        </Box>
        {mayDo.cancel === 'after payments' && (
          <Box w="130px">
            <QuantityField label="Payments in all" most={9_999} {...bind('cancelAfter')} />
          </Box>
        )}
      </Flex>
      <Flex gap="4" align="center" wrap="wrap" mt="2">
        {tick('pause', 'pause it')}
        {(mayDo.pause || mayDo.skip) && (
          <Box w="210px">
            <QuantityField
              label="Periods a year at most"
              most={99}
              hint="Pauses and skipped periods together."
              {...bind('pauseMost')}
            />
          </Box>
        )}
      </Flex>
      {tick('skip', 'skip the next period')}
      <Flex gap="4" align="center" wrap="wrap">
        {tick('quantity', 'change how many')}
        {mayDo.quantity && (
          <Box w="150px">
            <QuantityField label="How many at most" most={9_999_999} {...bind('quantityMost')} />
          </Box>
        )}
      </Flex>
      {tick('variant', 'move to another variant')}
      {tick('code', 'use a code')}
      {tick('instalmentsToo', 'the same while they pay instalments')}
      <Text color="muted" fontSize="13px" mt="1">
        {mayDo.instalmentsToo
          ? 'Instalments can be paused or skipped; they cannot be ended or changed.'
          : 'Instalments run to their end: nothing can be done to them alone.'}
      </Text>
    </Part>
  );
}
