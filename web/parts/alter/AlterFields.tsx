import { RadioGroup } from '@chakra-ui/react';
import { AmountField } from '../AmountField.tsx';
import { SelectField, TextField } from '../TextField.tsx';
import type { Alterable, AlterDraft } from './alteration.ts';
import { useAlterSaying } from './alterSaying.ts';
import { DateField } from '../DateField.tsx';
import { Ways } from './Ways.tsx';
import type { AlterationEffect } from '../../../server/subscriptions/alterMessages.ts';
import { QuantityField } from '../QuantityField.tsx';

interface Props {
  readonly of: Alterable;
  readonly draft: AlterDraft;
  /** What it does as it is typed; null while that is looked up, or where it is not good. */
  readonly effect: AlterationEffect | null;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<AlterDraft>) => void;
}

/** What there is to say of the alteration that is chosen. */
export function AlterFields({ of, draft, effect, faultAt, onChange }: Props) {
  const { words } = useAlterSaying();
  const bind = (name: 'payments' | 'periods' | 'quantity' | 'extraQuantity' | 'onceQuantity' | 'code') => ({
    value: draft[name],
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  switch (draft.kind) {
    case 'cancel':
      return (
        <>
          {of.cancelWhen.length > 1 && (
            <SelectField
              label={words.ends}
              value={draft.when}
              onChange={(event) => onChange({ when: event.target.value as AlterDraft['when'] })}
            >
              {of.cancelWhen.map((when) => (
                <option key={when} value={when}>
                  {words.whens[when]}
                </option>
              ))}
            </SelectField>
          )}
          {draft.when === 'after payments' && of.cancelAfter === null && (
            <QuantityField label={words.paymentsInAll} most={9_999} {...bind('payments')} />
          )}
        </>
      );
    case 'pause':
      return (
        <QuantityField
          label={words.periods(of.pauseMost)}
          most={99}
          error={faultAt('/periods')}
          {...bind('periods')}
        />
      );
    case 'pause until':
    case 'date':
      return (
        <>
          <DateField
            label={draft.kind === 'date' ? 'The next payment is on' : 'On again from'}
            value={draft.to}
            error={faultAt('/to')}
            onChange={(event) => onChange({ to: event.target.value })}
          />
          {draft.to !== '' && (
            <Ways
              kind={draft.kind}
              given={draft.given}
              effect={effect}
              onGiven={(given) => onChange({ given })}
            />
          )}
        </>
      );
    case 'quantity':
      return (
        <>
          <QuantityField
            label={words.howMany}
            most={9_999_999}
            error={faultAt('/quantity')}
            {...bind('quantity')}
          />
          <FromWhen draft={draft} onChange={onChange} />
        </>
      );
    case 'extra': {
      const chosen = of.extras.find(({ key }) => key === draft.extra);
      return (
        <>
          <SelectField
            label={words.extra}
            value={draft.extra}
            onChange={(event) => {
              const extra = of.extras.find(({ key }) => key === event.target.value);
              onChange({ extra: event.target.value, extraQuantity: String(extra?.quantity ?? 0) });
            }}
          >
            {of.extras.map(({ key, name, quantity }) => (
              <option key={key} value={key}>
                {words.extraNow(name, quantity)}
              </option>
            ))}
          </SelectField>
          <QuantityField
            label={words.howManyOfIt}
            most={9_999_999}
            hint={chosen && words.range(chosen.min, chosen.max, !chosen.required)}
            error={faultAt('/quantity')}
            {...bind('extraQuantity')}
          />
          <FromWhen draft={draft} onChange={onChange} />
        </>
      );
    }
    case 'once':
      return (
        <>
          <SelectField
            label={words.added}
            value={draft.once}
            onChange={(event) => onChange({ once: event.target.value })}
          >
            {of.once.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </SelectField>
          <QuantityField
            label={words.howManyAdded}
            most={9_999_999}
            error={faultAt('/quantity')}
            {...bind('onceQuantity')}
          />
          <FromWhen draft={draft} onChange={onChange} says={words.onceWhen} />
        </>
      );
    case 'amount':
      return (
        <>
          <TextField
            label="What it is for"
            maxLength={200}
            value={draft.name}
            error={faultAt('/name')}
            onChange={(event) => onChange({ name: event.target.value })}
          />
          <AmountField
            label="How much"
            currency={of.currency}
            value={draft.amount}
            error={faultAt('/amount')}
            onChange={(event) => onChange({ amount: event.target.value })}
          />
          <FromWhen
            draft={draft}
            onChange={onChange}
            says={{ renewal: 'with the next invoice', now: 'at once, with an invoice of its own' }}
          />
        </>
      );
    case 'variant':
      return (
        <>
          <SelectField
            label={words.toWhich}
            value={draft.variantId}
            error={faultAt('/variantId')}
            onChange={(event) => onChange({ variantId: event.target.value })}
          >
            {of.variants
              .filter(({ id }) => id !== of.variantId)
              .map(({ id, name, says }) => (
                <option key={id} value={id}>
                  {name}
                  {says ? `: ${says}` : ''}
                </option>
              ))}
          </SelectField>
          <FromWhen draft={draft} onChange={onChange} />
        </>
      );
    case 'rate card':
      return (
        <>
          <SelectField
            label="Which"
            value={draft.cardId}
            error={faultAt('/cardId')}
            onChange={(event) => onChange({ cardId: event.target.value })}
          >
            {of.cards
              .filter(({ id }) => id !== of.cardId)
              .map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            {of.cardId !== null && <option value="">none: the ordinary prices</option>}
          </SelectField>
          <FromWhen draft={draft} onChange={onChange} />
        </>
      );
    case 'code':
      return <TextField label={words.code} maxLength={40} error={faultAt('/code')} {...bind('code')} />;
    case '':
    case 'skip':
    case 'go on':
      return null;
  }
}

function FromWhen(
  props: Pick<Props, 'draft' | 'onChange'> & { readonly says?: Readonly<Record<'now' | 'renewal', string>> },
) {
  const { words } = useAlterSaying();
  const { draft, onChange, says = words.fromWhens } = props;
  return (
    <RadioGroup.Root
      aria-label={words.fromWhen}
      colorPalette="kelp"
      value={draft.from}
      onValueChange={({ value }) => onChange({ from: value === 'now' ? 'now' : 'renewal' })}
    >
      {(['renewal', 'now'] as const).map((from) => (
        <RadioGroup.Item key={from} value={from}>
          <RadioGroup.ItemHiddenInput />
          <RadioGroup.ItemIndicator />
          <RadioGroup.ItemText>{says[from]}</RadioGroup.ItemText>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
