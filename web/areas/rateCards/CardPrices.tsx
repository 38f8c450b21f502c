import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useCallback } from 'react';
import type { PlanView } from '../../../server/plans/messages.ts';
import { SelectField } from '../../parts/TextField.tsx';
import { linesOf, OtherPrices, pricesDraftOf, type PricesDraft } from '../plans/rate/OtherPrices.tsx';
import { priceDraftOf } from '../plans/rate/savedDraft.ts';
import { rateNamed, type CardDraft, type CardPriceDraft } from './cardDraft.ts';

interface Props {
  readonly plans: readonly PlanView[];
  readonly prices: CardDraft['prices'];
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onPrices: (change: (prices: CardDraft['prices']) => CardDraft['prices']) => void;
}

/** The rates that a card has other prices for, each beside its ordinary price. */
export function CardPrices({ plans, prices, faultAt, onPrices }: Props) {
  const has = (rateId: string, variantId: string | null) =>
    prices.some((one) => one.rateId === rateId && one.variantId === variantId);
  const add = (chosen: string) => {
    const [rateId = '', variantId = ''] = chosen.split(':');
    const rate = rateNamed(plans, rateId)?.rate;
    if (!rate) return;
    const lines = linesOf(rate.terms);
    // The first line is what one wants to change; its ordinary price is where one begins.
    const first = lines[0] ? [priceDraftOf(lines[0].price)] : [];
    const draft = [...first, ...pricesDraftOf(undefined, lines.length).slice(1)];
    onPrices((now) => [...now, { rateId, variantId: variantId || null, prices: draft }]);
  };
  return (
    <>
      {prices.map((one, i) => (
        <OneRate
          key={`${one.rateId}:${one.variantId}`}
          plans={plans}
          one={one}
          faultAt={(pointer) => faultAt(`/prices/${i}/prices${pointer}`)}
          onPrices={onPrices}
        />
      ))}
      <Box w="420px">
        <SelectField
          label="Add a rate"
          value=""
          error={prices.length === 0 ? faultAt('/prices') : undefined}
          onChange={(event) => add(event.target.value)}
        >
          <option value="">Choose …</option>
          {plans.map((plan) => (
            <optgroup key={plan.id} label={plan.name}>
              {plan.rates
                .filter(({ terms }) => linesOf(terms).length > 0)
                .flatMap((rate) => [
                  ...(has(rate.id, null)
                    ? []
                    : [
                        <option key={rate.id} value={rate.id}>
                          {plan.name}, {rate.name}: {rate.says}
                        </option>,
                      ]),
                  ...plan.variants
                    .filter(({ id }) => !has(rate.id, id))
                    .map((variant) => (
                      <option key={`${rate.id}:${variant.id}`} value={`${rate.id}:${variant.id}`}>
                        {plan.name}, {variant.name}, {rate.name}
                      </option>
                    )),
                ])}
            </optgroup>
          ))}
        </SelectField>
      </Box>
    </>
  );
}

function OneRate(props: {
  readonly plans: readonly PlanView[];
  readonly one: CardPriceDraft;
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onPrices: Props['onPrices'];
}) {
  const { plans, one, faultAt, onPrices } = props;
  const { rateId, variantId } = one;
  const found = rateNamed(plans, rateId);
  const isThis = useCallback(
    (other: CardPriceDraft) => other.rateId === rateId && other.variantId === variantId,
    [rateId, variantId],
  );
  const onChange = useCallback(
    (change: (draft: PricesDraft) => PricesDraft) =>
      onPrices((now) =>
        now.map((other) => (isThis(other) ? { ...other, prices: change(other.prices) } : other)),
      ),
    [onPrices, isThis],
  );
  if (!found) return <Text color="muted">A rate that is archived keeps its price on this card.</Text>;
  const { plan, rate } = found;
  const variant = plan.variants.find(({ id }) => id === variantId);
  const lines = linesOf(rate.terms);
  const ofVariant = variant?.prices[rateId];
  return (
    <Box as="section" aria-label={`${plan.name}, ${rate.name}`} mb="5">
      <Flex align="baseline">
        <Text fontWeight="600">
          {plan.name}, {rate.name}
          {variant
            ? `, ${variant.name}`
            : plan.variants.length > 0
              ? ', every variant without a price of its own'
              : ''}
        </Text>
        <Button
          ml="auto"
          size="xs"
          variant="ghost"
          onClick={() => onPrices((now) => now.filter((other) => !isThis(other)))}
        >
          Take out
        </Button>
      </Flex>
      <OtherPrices
        lines={lines.map((line, i) => ({ ...line, price: ofVariant?.[i] ?? line.price }))}
        currency={String(rate.terms.currency)}
        draft={one.prices}
        faultAt={faultAt}
        onChange={onChange}
      />
    </Box>
  );
}
