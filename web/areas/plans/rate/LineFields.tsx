import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useCallback } from 'react';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { priceOf, type DraftChange, type LineDraft, type TierDraft } from './draft.ts';
import { TierEditor } from './TierEditor.tsx';

/** Price schemes in plain words. */
const SCHEMES: Readonly<Record<LineDraft['scheme'], string>> = {
  flat: 'flat: the same each time',
  'per-unit': 'each: a price for one, times the quantity',
  graduated: 'each at its own tier',
  volume: 'all at the tier reached',
  stairs: 'by step: one price up to each quantity',
  package: 'by the pack',
  chosen: 'own amount: the customer chooses',
  instalments: 'instalments: a total in parts',
};

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
  const onTiers = useCallback(
    (change: (tiers: readonly TierDraft[]) => readonly TierDraft[]) =>
      update((now) => ({ tiers: change(now.tiers) })),
    [update],
  );
  const onChange = (to: Partial<LineDraft>) => update(() => to);
  const bind = (name: 'name' | 'amount' | 'size' | 'min' | 'max' | 'firstPayments' | 'firstAmount') => ({
    value: line[name],
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  const { scheme } = line;
  const amountLabel =
    scheme === 'instalments'
      ? 'Total'
      : scheme === 'per-unit'
        ? 'Price of one'
        : scheme === 'package'
          ? 'Price of a pack'
          : scheme === 'chosen'
            ? 'Suggested'
            : 'Amount';
  const fault = faultAt('/price/amount') ?? faultAt('/price/total');
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
      <Flex gap="3" align="flex-start" wrap="wrap">
        <Box w="270px">
          <SelectField
            label="Scheme"
            value={scheme}
            error={faultAt('/price/scheme')}
            onChange={(event) => onChange({ scheme: event.target.value as LineDraft['scheme'] })}
          >
            {Object.entries(SCHEMES).map(([key, says]) => (
              <option key={key} value={key}>
                {says}
              </option>
            ))}
          </SelectField>
        </Box>
        {!isTiered(scheme) && (
          <Box w="150px">
            <TextField
              label={`${amountLabel}, ${currency}`}
              inputMode="decimal"
              maxLength={32}
              error={fault}
              {...bind('amount')}
            />
          </Box>
        )}
        {scheme === 'package' && (
          <Box w="90px">
            <TextField
              label="Pack of"
              inputMode="numeric"
              maxLength={9}
              error={faultAt('/price/size')}
              {...bind('size')}
            />
          </Box>
        )}
        {scheme === 'chosen' && (
          <>
            <Box w="110px">
              <TextField
                label="At least"
                inputMode="decimal"
                error={faultAt('/price/min')}
                {...bind('min')}
              />
            </Box>
            <Box w="110px">
              <TextField label="At most" inputMode="decimal" error={faultAt('/price/max')} {...bind('max')} />
            </Box>
          </>
        )}
        <Box w="200px">
          <TextField
            label="Name on invoices"
            maxLength={200}
            placeholder="the plan’s"
            error={faultAt('/name')}
            {...bind('name')}
          />
        </Box>
      </Flex>
      {isTiered(scheme) && (
        <Box mt="3">
          <TierEditor
            tiers={line.tiers}
            scheme={scheme}
            currency={currency}
            price={priceOf(line)}
            faultAt={(pointer) => faultAt(`/price${pointer}`)}
            onUpdate={onTiers}
          />
          <Text role="alert" color="declined">
            {faultAt('/price/tiers')}
          </Text>
        </Box>
      )}
      {scheme !== 'instalments' && (
        <Flex gap="3" mt="3" align="flex-start" wrap="wrap">
          <Box w="150px">
            <TextField
              label="First payments"
              inputMode="numeric"
              maxLength={4}
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
                <TextField
                  label={line.firstAs === 'off' && scheme === 'flat' ? 'Taken off' : 'First price'}
                  inputMode="decimal"
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

function isTiered(scheme: LineDraft['scheme']): scheme is 'graduated' | 'volume' | 'stairs' {
  return scheme === 'graduated' || scheme === 'volume' || scheme === 'stairs';
}
