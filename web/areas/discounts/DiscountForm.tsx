import { Box, Button, Checkbox, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { CURRENCIES } from '../../../core/money/currency.ts';
import { discountSchema, type DiscountValue, type DiscountView } from '../../../server/discounts/messages.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { focusFirstFault } from '../../frame/pageForm.ts';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { DateField } from '../../parts/DateField.tsx';
import { QuantityField } from '../../parts/QuantityField.tsx';
import { AmountField, PercentField } from '../../parts/AmountField.tsx';

type Typed = Omit<DiscountValue, 'payments' | 'mostUses' | 'mostPerCustomer'> & {
  readonly payments: string;
  readonly mostUses: string;
  readonly mostPerCustomer: string;
};

const NEW: Omit<Typed, 'currency'> = {
  name: '',
  as: 'percent',
  off: '',
  payments: '',
  appliesTo: 'recurring',
  plans: [],
  validFrom: null,
  validTo: null,
  mostUses: '',
  mostPerCustomer: '',
  stacks: false,
};

const count = (text: string) => (text.trim() === '' ? null : Number(text));

/** Makes or changes a discount. */
export function DiscountForm({ discount, onClose }: { discount: DiscountView | null; onClose: () => void }) {
  const { homeCurrency } = useFrame();
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const [begun] = useState<Typed>(() => {
    if (discount === null) return { ...NEW, currency: homeCurrency };
    const {
      id: _id,
      version: _v,
      used: _u,
      archivedOn: _a,
      says: _s,
      codes: _c,
      someCodes: _sc,
      ...value
    } = discount;
    return {
      ...value,
      currency: value.currency ?? homeCurrency,
      payments: String(value.payments ?? ''),
      mostUses: String(value.mostUses ?? ''),
      mostPerCustomer: String(value.mostPerCustomer ?? ''),
    };
  });
  const keptAs = discount ? `discount:${discount.id}:${discount.version}` : 'discount';
  const { draft: typed, setDraft: setTyped, kept } = useKeptDraft<Typed>(keptAs, begun);
  const [faults, setFaults] = useState<Readonly<Record<string, string>>>({});
  const acting = useAct();
  const change = (to: Partial<Typed>) => {
    setFaults((now) => Object.fromEntries(Object.entries(now).filter(([name]) => !(name in to))));
    setTyped((now) => ({ ...now, ...to }));
  };
  const fault = (name: string) => faults[name] ?? acting.problem?.at(`/value/${name}`);
  const value = {
    ...typed,
    currency: typed.as === 'amount' ? typed.currency : null,
    payments: count(typed.payments),
    mostUses: count(typed.mostUses),
    mostPerCustomer: count(typed.mostPerCustomer),
  };
  const store = async (version: number) => {
    const parsed = discountSchema.safeParse(value);
    setFaults(
      parsed.success
        ? {}
        : Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('/'), message])),
    );
    if (!parsed.success) return focusFirstFault();
    const done = await acting.act(() =>
      discount === null
        ? post('/api/discounts', { value: parsed.data })
        : put(`/api/discounts/${discount.id}`, { version, value: parsed.data }),
    );
    if (!done) return focusFirstFault();
    kept.forget();
    onClose();
  };
  const bind = (name: 'name' | 'off' | 'payments' | 'mostUses' | 'mostPerCustomer') => ({
    value: typed[name],
    error: fault(name),
    onChange: (event: { target: { value: string } }) => change({ [name]: event.target.value }),
  });
  const theirs = acting.problem?.theirs;
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void store(discount?.version ?? 0);
      }}
    >
      <MarginHeading>{discount === null ? 'A new discount' : `Edit ${discount.name}`}</MarginHeading>
      <KeptNote kept={kept} />
      <Flex direction="column" gap="3">
        <TextField label="Name" required maxLength={80} {...bind('name')} />
        <Flex gap="2" align="flex-start">
          <SelectField
            label="As"
            value={typed.as}
            onChange={(event) => change({ as: event.target.value as Typed['as'] })}
          >
            <option value="percent">percent</option>
            <option value="amount">an amount</option>
          </SelectField>
          {typed.as === 'percent' ? (
            <PercentField label="Off" {...bind('off')} />
          ) : (
            <AmountField label="Off" currency={typed.currency ?? homeCurrency} {...bind('off')} />
          )}
          {typed.as === 'amount' && (
            <SelectField
              label="Currency"
              value={typed.currency ?? ''}
              error={fault('currency')}
              onChange={(event) => change({ currency: event.target.value })}
            >
              {CURRENCIES.map((code) => (
                <option key={code}>{code}</option>
              ))}
            </SelectField>
          )}
        </Flex>
        <Flex gap="2" align="flex-start">
          <QuantityField label="For payments" most={999_999_999} placeholder="always" {...bind('payments')} />
          <SelectField
            label="Off what"
            value={typed.appliesTo}
            onChange={(event) => change({ appliesTo: event.target.value as Typed['appliesTo'] })}
          >
            <option value="recurring">what recurs</option>
            <option value="once">amounts once</option>
            <option value="all">everything</option>
          </SelectField>
        </Flex>
        <Flex direction="column" gap="3">
          <DateField
            label="Valid from"
            value={typed.validFrom ?? ''}
            error={fault('validFrom')}
            onChange={(event) => change({ validFrom: event.target.value || null })}
          />
          <DateField
            label="No longer from"
            value={typed.validTo ?? ''}
            error={fault('validTo')}
            onChange={(event) => change({ validTo: event.target.value || null })}
          />
        </Flex>
        <Flex gap="2" align="flex-start">
          <QuantityField label="Uses in all" most={999_999_999} placeholder="any" {...bind('mostUses')} />
          <QuantityField
            label="A customer"
            most={999_999_999}
            placeholder="any"
            {...bind('mostPerCustomer')}
          />
        </Flex>
        <Checkbox.Root
          colorPalette="kelp"
          checked={typed.stacks}
          onCheckedChange={({ checked }) => change({ stacks: checked === true })}
        >
          <Checkbox.HiddenInput />
          <Checkbox.Control />
          <Checkbox.Label>can be used beside other codes</Checkbox.Label>
        </Checkbox.Root>
        <Box role="group" aria-label="For which plans">
          <Text fontWeight="500">For which plans</Text>
          <Text color="muted" fontSize="13px">
            None chosen: for all.
          </Text>
          {plans?.map((plan) => (
            <Box key={plan.id}>
              <label>
                <input
                  type="checkbox"
                  checked={typed.plans.includes(plan.id)}
                  onChange={(event) =>
                    change({
                      plans: event.target.checked
                        ? [...typed.plans, plan.id]
                        : typed.plans.filter((one) => one !== plan.id),
                    })
                  }
                />{' '}
                {plan.name}
              </label>
            </Box>
          ))}
        </Box>
      </Flex>
      {theirs && (
        <Conflict
          mine={value}
          theirs={theirs.value as object}
          by={theirs.changedBy}
          onMine={() => void store(theirs.version)}
          onTheirs={onClose}
        />
      )}
      <Flex gap="2" mt="4">
        <Button size="sm" colorPalette="kelp" type="submit" loading={acting.busy}>
          {discount === null ? 'Make the discount' : 'Store the changes'}
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </form>
  );
}
