import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { memo, useCallback } from 'react';
import { CURRENCIES } from '../../../../core/money/currency.ts';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import type { PriceDraft } from '../rate/draft.ts';
import { Part } from '../../../parts/Part.tsx';
import { PriceFields } from '../rate/PriceFields.tsx';
import { newExtra, type ExtraDraft } from './planDraft.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';

interface Props {
  readonly extras: readonly ExtraDraft[];
  readonly currency: string;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (change: (extras: readonly ExtraDraft[]) => readonly ExtraDraft[]) => void;
}

/** Lines that a plan offers beside its rates. */
export function ExtraFields({ extras, currency, faultAt, onChange }: Props) {
  return (
    <Part title="Extra lines">
      <Text color="muted" mb="3">
        What can be taken along with any rate of the same currency: charged with it, or once at the start.
      </Text>
      {extras.map((extra, i) => (
        <Extra key={extra.key} extra={extra} at={i} faultAt={faultAt} onChange={onChange} />
      ))}
      <Button
        size="xs"
        variant="outline"
        onClick={() => onChange((now) => [...now, newExtra(currency, now)])}
      >
        Add an extra line
      </Button>
    </Part>
  );
}

const Extra = memo(function Extra(props: {
  readonly extra: ExtraDraft;
  readonly at: number;
  readonly faultAt: Props['faultAt'];
  readonly onChange: Props['onChange'];
}) {
  const { extra, at, faultAt, onChange } = props;
  const { key } = extra;
  const update = useCallback(
    (change: (now: ExtraDraft) => Partial<ExtraDraft>) =>
      onChange((now) => now.map((one) => (one.key === key ? { ...one, ...change(one) } : one))),
    [onChange, key],
  );
  const set = (to: Partial<ExtraDraft>) => update(() => to);
  const onPrice = useCallback(
    (to: Partial<PriceDraft>) => update((now) => ({ price: { ...now.price, ...to } })),
    [update],
  );
  const bind = (name: 'name' | 'min' | 'max') => ({
    value: extra[name],
    error: faultAt(`/extras/${at}/${name}`),
    onChange: (event: { target: { value: string } }) => set({ [name]: event.target.value }),
  });
  return (
    <Box
      as="section"
      aria-label={`Extra line ${at + 1}`}
      mb="5"
      pl="3"
      borderLeftWidth="3px"
      borderColor="kelp.muted"
    >
      <Flex gap="3" align="flex-start" wrap="wrap" mb="3">
        <Box w="210px">
          <TextField label="Extra line" maxLength={120} required {...bind('name')} />
        </Box>
        <Box w="170px">
          <SelectField
            label="It is"
            value={extra.how}
            onChange={(event) => set({ how: event.target.value as ExtraDraft['how'] })}
          >
            <option value="required">required</option>
            <option value="preselected">taken unless left out</option>
            <option value="offered">offered</option>
          </SelectField>
        </Box>
        <Box w="170px">
          <SelectField
            label="It is charged"
            value={extra.when}
            onChange={(event) => set({ when: event.target.value as ExtraDraft['when'] })}
          >
            <option value="recurring">with every payment</option>
            <option value="once">once, at the start</option>
          </SelectField>
        </Box>
        <Button
          mt="7"
          size="xs"
          variant="ghost"
          onClick={() => onChange((now) => now.filter((one) => one.key !== key))}
        >
          Take out
        </Button>
      </Flex>
      <PriceFields
        draft={extra.price}
        currency={extra.currency}
        without={['instalments', 'chosen']}
        faultAt={(pointer) => faultAt(`/extras/${at}/price${pointer}`)}
        onChange={onPrice}
      >
        <Box w="100px">
          <SelectField
            label="In"
            value={extra.currency}
            onChange={(event) => set({ currency: event.target.value })}
          >
            {CURRENCIES.map((code) => (
              <option key={code}>{code}</option>
            ))}
          </SelectField>
        </Box>
      </PriceFields>
      <Flex gap="3" align="flex-start" wrap="wrap" mt="3">
        <Box w="110px">
          <QuantityField label="At least" most={9_999_999} {...bind('min')} />
        </Box>
        <Box w="110px">
          <QuantityField
            label="At most"
            most={9_999_999}
            hint={extra.min === extra.max ? 'Fixed.' : undefined}
            {...bind('max')}
          />
        </Box>
        {extra.when === 'recurring' && (
          <Box pt="6">
            <TickField
              label="customers may change it themselves"
              checked={extra.byCustomer}
              onChange={(byCustomer) => set({ byCustomer })}
            />
          </Box>
        )}
      </Flex>
    </Box>
  );
});
