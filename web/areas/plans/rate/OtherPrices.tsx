import { Box, Flex, Text } from '@chakra-ui/react';
import { useCallback } from 'react';
import type { LinePrices } from '../../../../core/offer/prices.ts';
import type { TermsPrice } from '../../../../core/terms/schema.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import { sayPrice } from '../../../../core/words/sayRate.ts';
import { TickField } from '../../../parts/TickField.tsx';
import { priceOf, type PriceDraft } from './draft.ts';
import { PriceFields } from './PriceFields.tsx';
import { priceDraftOf } from './savedDraft.ts';

/** Other prices of a rate's lines as they are typed; null where the line keeps its own. */
export type PricesDraft = readonly (PriceDraft | null)[];

/** The lines of stored terms, of which the prices can be other ones. */
export function linesOf(terms: Readonly<Record<string, unknown>>) {
  return (terms.lines ?? []) as readonly { readonly name?: string; readonly price: TermsPrice }[];
}

/** The prices that a draft stands for; what is not good stays as it was typed. */
export function pricesOf(draft: PricesDraft): LinePrices {
  return draft.map((price) => (price === null ? null : (priceOf(price) as unknown as TermsPrice)));
}

/** The draft of prices that are stored, one for each line there is now. */
export function pricesDraftOf(stored: LinePrices | undefined, lines: number): PricesDraft {
  return Array.from({ length: lines }, (_, i) => {
    const price = stored?.[i];
    return price ? priceDraftOf(price) : null;
  });
}

interface Props {
  readonly lines: ReturnType<typeof linesOf>;
  readonly currency: string;
  readonly draft: PricesDraft;
  /** What is wrong at a pointer into the prices. */
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (change: (draft: PricesDraft) => PricesDraft) => void;
}

/** The lines of a rate, each with its present price and, where it is ticked, another one. */
export function OtherPrices({ lines, currency, draft, faultAt, onChange }: Props) {
  return (
    <>
      {lines.map((line, i) => (
        <OtherPrice
          key={i}
          at={i}
          line={line}
          several={lines.length > 1}
          currency={currency}
          draft={draft[i] ?? null}
          faultAt={(pointer) => faultAt(`/${i}${pointer}`)}
          onChange={onChange}
        />
      ))}
    </>
  );
}

function OtherPrice(props: {
  readonly at: number;
  readonly line: Props['lines'][number];
  readonly several: boolean;
  readonly currency: string;
  readonly draft: PriceDraft | null;
  readonly faultAt: Props['faultAt'];
  readonly onChange: Props['onChange'];
}) {
  const { at, line, several, currency, draft, faultAt, onChange } = props;
  const set = useCallback(
    (change: (now: PriceDraft | null) => PriceDraft | null) =>
      onChange((now) => now.map((one, i) => (i === at ? change(one) : one))),
    [onChange, at],
  );
  const onPrice = useCallback(
    (to: Partial<PriceDraft>) => set((now) => (now === null ? null : { ...now, ...to })),
    [set],
  );
  return (
    <Box mb="3">
      <Flex gap="4" align="baseline" wrap="wrap">
        <Text>
          {several ? `${line.name ?? `Line ${at + 1}`}: ` : ''}
          <Box as="span" color="muted">
            ordinarily
          </Box>{' '}
          {sayPrice(line.price, currency)}
          {draft !== null && (
            <>
              <Box as="span" color="muted">
                , here
              </Box>{' '}
              <b>{saidDraft(draft, currency)}</b>
            </>
          )}
        </Text>
        <TickField
          label="another price"
          checked={draft !== null}
          onChange={(on) => set(() => (on ? priceDraftOf(line.price) : null))}
        />
      </Flex>
      {draft !== null && (
        <Box mt="2">
          <PriceFields
            draft={draft}
            currency={currency}
            without={line.price.scheme === 'instalments' ? [] : ['instalments']}
            faultAt={faultAt}
            onChange={onPrice}
          />
        </Box>
      )}
    </Box>
  );
}

/** A price that is being typed, in words, once it is one. */
function saidDraft(draft: PriceDraft, currency: string): string {
  const price = priceOf(draft) as unknown as TermsPrice;
  const ends = price.scheme === 'instalments' ? { ends: { after: 2 } } : {};
  const terms = { currency, starts: '2027-01-01', interval: 'P1M', lines: [{ price }], ...ends };
  return checkTerms(terms).ok ? sayPrice(price, currency) : '…';
}
