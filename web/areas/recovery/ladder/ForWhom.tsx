import { Box, Flex, RadioGroup, Text } from '@chakra-ui/react';
import { CURRENCIES } from '../../../../core/money/currency.ts';
import { DECLINE_CLASSES } from '../../../../core/recovery/declineCodes.ts';
import { LADDER_METHODS, type Serves } from '../../../../server/recovery/ladderMessages.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import { AmountField } from '../../../parts/AmountField.tsx';
import { minorOf, typedOf } from '../../../parts/minorOf.ts';
import { SelectField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import { LANES } from './LadderLine.tsx';

const METHODS = { card: 'By card', 'bank account': 'By bank debit', 'by hand': 'By hand, late' } as const;

/** Whose cases climb a ladder: everybody's that no other is for, or those that all of this holds for. */
export function ForWhom({
  serves,
  isDefault,
  mayUndo,
  faultAt,
  onChange,
  onDefault,
}: {
  readonly serves: Serves;
  readonly isDefault: boolean;
  /** It may be made for some alone; not where it is the one for everybody else. */
  readonly mayUndo: boolean;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Serves) => void;
  readonly onDefault: (on: boolean) => void;
}) {
  const { homeCurrency } = useFrame();
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const set = <Name extends keyof Serves>(name: Name, to: Serves[Name] | undefined) => {
    const { [name]: _, ...others } = serves;
    onChange(to === undefined ? others : { ...others, [name]: to });
  };
  const toggled = <One extends string>(
    all: readonly One[],
    has: readonly One[] | undefined,
    one: One,
    on: boolean,
  ) => {
    const next = all.filter((other) => (other === one ? on : (has ?? []).includes(other)));
    return next.length === 0 ? undefined : next;
  };
  const amount = serves.amount ?? { currency: homeCurrency, from: null, to: null };
  const setAmount = (to: Partial<typeof amount>) => {
    const next = { ...amount, ...to };
    set('amount', next.from === null && next.to === null ? undefined : next);
  };
  const bound = (name: 'from' | 'to') => ({
    value: amount[name] === null ? '' : typedOf(amount[name], amount.currency),
    error: faultAt(`/serves/amount/${name}`),
    onChange: (event: { target: { value: string } }) => {
      const text = event.target.value.trim();
      const minor = text === '' ? null : minorOf(text, amount.currency);
      if (text === '' || minor !== null) setAmount({ [name]: minor === null ? null : minor.toString() });
    },
  });
  return (
    <Box data-field="/serves" tabIndex={-1} outline="none">
      <RadioGroup.Root
        value={isDefault ? 'all' : 'some'}
        colorPalette="kelp"
        display="flex"
        flexDirection="column"
        gap="2"
        onValueChange={({ value }) => onDefault(value === 'all')}
      >
        <RadioGroup.Item value="all">
          <RadioGroup.ItemHiddenInput />
          <RadioGroup.ItemIndicator />
          <RadioGroup.ItemText>Everybody whom no other ladder is for</RadioGroup.ItemText>
        </RadioGroup.Item>
        <RadioGroup.Item value="some" disabled={!mayUndo}>
          <RadioGroup.ItemHiddenInput />
          <RadioGroup.ItemIndicator />
          <RadioGroup.ItemText>
            Some cases alone: those that all of this holds for
            {mayUndo ? '' : ' (make another ladder the one for everybody else first)'}
          </RadioGroup.ItemText>
        </RadioGroup.Item>
      </RadioGroup.Root>
      {!isDefault && (
        <Flex gap="7" wrap="wrap" mt="3" align="flex-start">
          <Box role="group" aria-label="Paid how">
            <Text fontWeight="500">Paid</Text>
            {LADDER_METHODS.map((one) => (
              <TickField
                key={one}
                label={METHODS[one]}
                checked={serves.methods?.includes(one) ?? false}
                onChange={(on) => set('methods', toggled(LADDER_METHODS, serves.methods, one, on))}
              />
            ))}
          </Box>
          <Box role="group" aria-label="Declined how">
            <Text fontWeight="500">When it fails first</Text>
            {DECLINE_CLASSES.map((one) => (
              <TickField
                key={one}
                label={LANES[one]}
                checked={serves.classes?.includes(one) ?? false}
                onChange={(on) => set('classes', toggled(DECLINE_CLASSES, serves.classes, one, on))}
              />
            ))}
          </Box>
          <Box role="group" aria-label="Of which plans">
            <Text fontWeight="500">Plans</Text>
            <Box maxH="150px" overflowY="auto" pr="3">
              {plans?.map(({ id, name }) => (
                <TickField
                  key={id}
                  label={name}
                  checked={serves.plans?.includes(id) ?? false}
                  onChange={(on) =>
                    set(
                      'plans',
                      toggled(
                        plans.map((plan) => plan.id),
                        serves.plans,
                        id,
                        on,
                      ),
                    )
                  }
                />
              ))}
            </Box>
          </Box>
          <Box w="210px">
            <Flex gap="2" align="flex-start">
              <AmountField label="Owed from" currency={amount.currency} {...bound('from')} />
              <AmountField label="to" currency={amount.currency} {...bound('to')} />
            </Flex>
            <Box mt="2" w="110px">
              <SelectField
                label="Currency"
                value={amount.currency}
                onChange={(event) => setAmount({ currency: event.target.value })}
              >
                {CURRENCIES.map((code) => (
                  <option key={code}>{code}</option>
                ))}
              </SelectField>
            </Box>
          </Box>
        </Flex>
      )}
      {faultAt('/serves') !== undefined && (
        <Text role="alert" color="declined" fontSize="13px" mt="1">
          {faultAt('/serves')}
        </Text>
      )}
    </Box>
  );
}

/** Whether a ladder names nobody that it is for. */
export const isForNobody = ({ methods, classes, plans, amount }: Serves) =>
  !methods && !classes && !plans?.length && !amount;

/** For whom a ladder is, in words. */
export function sayServes(
  { methods, classes, plans, amount }: Serves,
  namesOf: (id: string) => string,
): string {
  const parts = [
    methods ? methods.map((one) => METHODS[one].toLowerCase()).join(' or ') : '',
    classes ? classes.map((one) => LANES[one].toLowerCase()).join(' or ') : '',
    plans ? plans.map(namesOf).join(', ') : '',
    amount
      ? [
          amount.from === null ? '' : `from ${typedOf(amount.from, amount.currency)}`,
          amount.to === null ? '' : `to ${typedOf(amount.to, amount.currency)}`,
          amount.currency,
        ]
          .filter(Boolean)
          .join(' ')
      : '',
  ].filter(Boolean);
  return parts.join('; ') || 'nobody yet';
}
