import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useCallback } from 'react';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import type { DraftChange, LineDraft } from './draft.ts';
import { PriceFields } from './PriceFields.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { AmountField } from '../../../parts/AmountField.tsx';

interface Props {
  readonly line: LineDraft;
  readonly at: number;
  readonly several: boolean;
  readonly currency: string;
  readonly faultAt: (pointer: string) => string | undefined;
  /** Changes the draft as it is at that moment; the same function each time. */
  readonly onDraft: DraftChange;
  readonly onRemove: () => void;
}

/** One line of what recurs: its name, its price by one of the schemes, and a first price. */
export function LineFields({ line, at, several, currency, faultAt, onDraft, onRemove }: Props) {
  const update = useCallback(
    (change: (now: LineDraft) => Partial<LineDraft>) =>
      onDraft((now) => ({ lines: now.lines.map((one, i) => (i === at ? { ...one, ...change(one) } : one)) })),
    [onDraft, at],
  );
  const onChange = useCallback((to: Partial<LineDraft>) => update(() => to), [update]);
  const bind = (name: 'name' | 'firstPayments' | 'firstAmount') => ({
    value: line[name],
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  const { scheme } = line;
  return (
    <Box
      as="section"
      aria-label={several ? `Line ${at + 1}` : 'Price'}
      borderTopWidth="1px"
      borderColor="lines"
      pt="4"
    >
      <Flex align="baseline">
        <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
          {several ? `Line ${at + 1}` : 'Price'}
        </Text>
        {several && (
          <Button ml="auto" size="xs" variant="ghost" onClick={onRemove}>
            Take out line {at + 1}
          </Button>
        )}
      </Flex>
      <PriceFields
        draft={line}
        currency={currency}
        faultAt={(pointer) => faultAt(`/price${pointer}`)}
        onChange={onChange}
      >
        <Box w="200px">
          <TextField
            label="Name on invoices"
            maxLength={200}
            placeholder="the plan’s"
            error={faultAt('/name')}
            {...bind('name')}
          />
        </Box>
      </PriceFields>
      {scheme !== 'instalments' && (
        <Flex gap="3" mt="3" align="flex-start" wrap="wrap">
          <Box w="150px">
            <QuantityField
              label="First payments"
              most={9_999}
              placeholder="none"
              hint="At another price."
              error={faultAt('/intro/payments')}
              {...bind('firstPayments')}
            />
          </Box>
          {line.firstPayments.trim() !== '' && (
            <>
              {scheme === 'flat' && (
                <Box w="150px">
                  <SelectField
                    label="Typed as"
                    value={line.firstAs}
                    onChange={(event) => onChange({ firstAs: event.target.value as LineDraft['firstAs'] })}
                  >
                    <option value="price">the price</option>
                    <option value="off">the amount off</option>
                  </SelectField>
                </Box>
              )}
              <Box w="150px">
                <AmountField
                  label={line.firstAs === 'off' && scheme === 'flat' ? 'Taken off' : 'First price'}
                  currency={currency}
                  error={faultAt('/intro/amount')}
                  {...bind('firstAmount')}
                />
              </Box>
            </>
          )}
        </Flex>
      )}
    </Box>
  );
}
