import { Box, Flex, Text } from '@chakra-ui/react';
import { useCallback, type ReactNode } from 'react';
import { SelectField } from '../../../parts/TextField.tsx';
import { priceOf, type LineDraft, type PriceDraft, type TierDraft } from './draft.ts';
import { TierEditor } from './TierEditor.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { AmountField, UNIT_DECIMALS } from '../../../parts/AmountField.tsx';

/** Price schemes in plain words. */
const SCHEMES: Readonly<Record<LineDraft['scheme'], string>> = {
  flat: 'flat: the same each time',
  each: 'each: a price for one, times the quantity',
  'each-tier': 'each at its own tier',
  'reached-tier': 'all at the tier reached',
  step: 'by step: one price up to each quantity',
  pack: 'by the pack',
  chosen: 'own amount: the customer chooses',
  instalments: 'instalments: a total in parts',
};

interface Props {
  readonly draft: PriceDraft;
  readonly currency: string;
  /** What is wrong at a pointer into the price. */
  readonly faultAt: (pointer: string) => string | undefined;
  /** The same function each time, so that a long table of tiers is not drawn in vain. */
  readonly onChange: (to: Partial<PriceDraft>) => void;
  /** Schemes that cannot be chosen here. */
  readonly without?: readonly LineDraft['scheme'][];
  /** What stands on the line beside the amounts. */
  readonly children?: ReactNode;
}

/** A price by one of the schemes. */
export function PriceFields({ draft, currency, faultAt, onChange, without = [], children }: Props) {
  const { scheme } = draft;
  const offered = Object.entries(SCHEMES).filter(([key]) => !without.includes(key as LineDraft['scheme']));
  const onTiers = useCallback((tiers: readonly TierDraft[]) => onChange({ tiers }), [onChange]);
  const bind = (name: 'amount' | 'size' | 'min' | 'max') => ({
    value: draft[name],
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  const amountLabel =
    scheme === 'instalments'
      ? 'Total'
      : scheme === 'each'
        ? 'Price of one'
        : scheme === 'pack'
          ? 'Price of a pack'
          : scheme === 'chosen'
            ? 'Suggested'
            : 'Amount';
  const fault = faultAt('/amount') ?? faultAt('/total');
  return (
    <>
      <Flex gap="3" align="flex-start" wrap="wrap">
        <Box w="270px">
          <SelectField
            label="Scheme"
            value={scheme}
            error={faultAt('/scheme')}
            onChange={(event) => onChange({ scheme: event.target.value as LineDraft['scheme'] })}
          >
            {offered.map(([key, says]) => (
              <option key={key} value={key}>
                {says}
              </option>
            ))}
          </SelectField>
        </Box>
        {!isTiered(scheme) && (
          <Box w="150px">
            <AmountField
              label={`${amountLabel}, ${currency}`}
              currency={currency}
              {...(scheme === 'each' || scheme === 'pack' ? { decimals: UNIT_DECIMALS } : {})}
              error={fault}
              {...bind('amount')}
            />
          </Box>
        )}
        {scheme === 'pack' && (
          <Box w="90px">
            <QuantityField label="Pack of" most={999_999_999} error={faultAt('/size')} {...bind('size')} />
          </Box>
        )}
        {scheme === 'chosen' && (
          <>
            <Box w="110px">
              <AmountField label="At least" currency={currency} error={faultAt('/min')} {...bind('min')} />
            </Box>
            <Box w="110px">
              <AmountField label="At most" currency={currency} error={faultAt('/max')} {...bind('max')} />
            </Box>
          </>
        )}
        {children}
      </Flex>
      {isTiered(scheme) && (
        <Box mt="3">
          <TierEditor
            tiers={draft.tiers}
            scheme={scheme}
            currency={currency}
            price={priceOf(draft)}
            faultAt={(pointer) => faultAt(pointer)}
            onTiers={onTiers}
          />
          <Text role="alert" color="declined">
            {faultAt('/tiers')}
          </Text>
        </Box>
      )}
    </>
  );
}

function isTiered(scheme: LineDraft['scheme']): scheme is 'each-tier' | 'reached-tier' | 'step' {
  return scheme === 'each-tier' || scheme === 'reached-tier' || scheme === 'step';
}
