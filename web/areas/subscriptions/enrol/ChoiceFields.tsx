import { variantsAt } from '../../../../core/offer/variant.ts';
import { Box, Flex, RadioGroup, Text } from '@chakra-ui/react';
import { sayPrice } from '../../../../core/words/sayRate.ts';
import type { PlanView, RateView } from '../../../../server/plans/messages.ts';
import type { TakeableCard } from '../../../../server/rateCards/messages.ts';
import { TickField } from '../../../parts/TickField.tsx';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { AnswerField } from './AnswerField.tsx';
import { countsQuantity, extrasWith, takenOf, takesAmount, type ChoiceDraft } from './choice.ts';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { AmountField } from '../../../parts/AmountField.tsx';
import type { Terms } from '../../../../core/terms/schema.ts';
import { sayTaxBeside, type TaxSaid } from '../../../../core/words/sayTax.ts';
import { useTaxSaid } from '../../../api/useLaw.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import { TaxSaidContext } from '../../../parts/taxSaid.ts';

interface Props {
  readonly plan: PlanView;
  readonly rate: RateView;
  readonly draft: ChoiceDraft;
  /** What is wrong, by field, of those that are to be told. */
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (to: Partial<ChoiceDraft>) => void;
}

/** What there is to choose of a plan and its rate. */
export function ChoiceFields(props: Props) {
  const { plan, rate, draft, faultAt, onChange } = props;
  const { businessDate } = useFrame();
  const tax = useTaxSaid(rate.taxId, rate.terms.tax as Terms['tax'], businessDate);
  const variants = variantsAt(plan.variants, rate.id);
  return (
    <TaxSaidContext value={tax}>
      {variants.length > 0 && (
        <Box data-field="variant">
          <Text fontWeight="500">Variant</Text>
          <RadioGroup.Root
            aria-label="Variant"
            colorPalette="kelp"
            value={draft.variantId}
            onValueChange={({ value }) => onChange({ variantId: value ?? '' })}
          >
            <Flex gap="5" wrap="wrap">
              {variants.map((variant) => (
                <RadioGroup.Item key={variant.id} value={variant.id} title={variant.says}>
                  <RadioGroup.ItemHiddenInput />
                  <RadioGroup.ItemIndicator />
                  <RadioGroup.ItemText>{variant.name}</RadioGroup.ItemText>
                </RadioGroup.Item>
              ))}
            </Flex>
          </RadioGroup.Root>
          <Text role="alert" color="fg.error" fontSize="13px">
            {faultAt('variant')}
          </Text>
        </Box>
      )}
      {(countsQuantity(rate) || takesAmount(rate)) && (
        <Box w="160px">
          {countsQuantity(rate) ? (
            <QuantityField
              label="How many"
              field="quantity"
              most={999_999_999}
              value={draft.quantity}
              error={faultAt('quantity')}
              onChange={(event) => onChange({ quantity: event.target.value })}
            />
          ) : (
            <AmountField
              label="Their own amount"
              field="amount"
              currency={String(rate.terms.currency)}
              placeholder="as suggested"
              value={draft.amount}
              error={faultAt('amount')}
              onChange={(event) => onChange({ amount: event.target.value })}
            />
          )}
        </Box>
      )}
      <Extras {...props} tax={tax} />
      {plan.asks.map((ask) => (
        <AnswerField
          key={ask.label}
          ask={ask}
          value={draft.answers[ask.label] ?? ''}
          error={faultAt(`answer:${ask.label}`)}
          onChange={(answer) => onChange({ answers: { ...draft.answers, [ask.label]: answer } })}
        />
      ))}
    </TaxSaidContext>
  );
}

/** A rate card and a code: what prices may be had by, seldom. */
export function CardAndCode(props: {
  readonly draft: ChoiceDraft;
  readonly cards: readonly TakeableCard[];
  readonly codeSays: string | undefined;
  readonly codeHint: string;
  readonly onChange: (to: Partial<ChoiceDraft>) => void;
}) {
  const { draft, cards, codeSays, codeHint, onChange } = props;
  const groupCard = cards.find(({ givenBy }) => givenBy === 'group');
  return (
    <>
      {cards.length > 0 && (
        <Box w="320px">
          <SelectField
            label="Rate card"
            hint={groupCard && draft.cardId === null ? 'That of the customer’s group.' : undefined}
            value={draft.cardId ?? groupCard?.id ?? ''}
            onChange={(event) => onChange({ cardId: event.target.value })}
          >
            <option value="">none: the ordinary prices</option>
            {cards.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </SelectField>
        </Box>
      )}
      <Box w="240px">
        <TextField
          label="Discount or rate-card code"
          field="codes/0"
          maxLength={40}
          value={draft.code}
          error={codeSays}
          hint={codeHint}
          onChange={(event) => onChange({ code: event.target.value })}
        />
      </Box>
    </>
  );
}

function Extras({ plan, rate, draft, faultAt, tax, onChange }: Props & { readonly tax: TaxSaid }) {
  const extras = extrasWith(plan, rate);
  if (extras.length === 0) return null;
  const set = (key: string, taken: string) => onChange({ extras: { ...draft.extras, [key]: taken } });
  return (
    <Box role="group" aria-label="Extra lines">
      <Text fontWeight="500">Extra lines</Text>
      {extras.map((extra) => {
        const { key, name, price, currency, how, when, min, max } = extra;
        const taken = takenOf(extra, draft);
        const fixed = min === max;
        return (
          <Flex key={key} gap="3" align="flex-start">
            <TickField
              label={`${name}, ${sayTaxBeside(sayPrice(price, currency), tax)}${when === 'once' ? ' once' : ''}${how === 'required' ? ' (always)' : ''}`}
              checked={taken !== '0'}
              disabled={how === 'required'}
              onChange={(on) => set(key, on ? String(min) : '0')}
            />
            {taken !== '0' && !fixed && (
              <Box w="110px">
                <QuantityField
                  field={`extra:${key}`}
                  aria-label={`How many: ${name}`}
                  label={`${min} to ${max}`}
                  most={9_999_999}
                  value={taken}
                  error={faultAt(`extra:${key}`)}
                  onChange={(event) => set(key, event.target.value)}
                />
              </Box>
            )}
          </Flex>
        );
      })}
    </Box>
  );
}
