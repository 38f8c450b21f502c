import { Box, Text } from '@chakra-ui/react';
import { sayAmount } from '../../../../core/words/amount.ts';
import { sayRate, type SayableTerms } from '../../../../core/words/sayRate.ts';
import type { CompiledTerms } from '../../../../core/agreed/terms.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import type { TaxSaid } from '../../../../core/words/sayTax.ts';
import { MarginHeading } from '../../../frame/PageAndMargin.tsx';
import { TermsPreview } from '../../../parts/TermsPreview.tsx';
import type { ComputedRate } from './useRate.ts';
import { DateField } from '../../../parts/DateField.tsx';

interface Props {
  readonly rate: ComputedRate;
  /** The tax on its prices, as it is said. */
  readonly tax: TaxSaid;
  /** There is one invoice for all payments. */
  readonly isWhole: boolean;
  /** So many days before it begins a full period is invoiced. */
  readonly issueBefore: number;
  readonly currency: string;
  readonly starts: string;
  readonly today: string;
  readonly compile: (terms: Terms) => CompiledTerms;
  readonly onStarts: (starts: string) => void;
  /** The sum of the first year of the version that is saved, to hold the draft against. */
  readonly savedYear?: bigint | null;
}

/** What a rate means for a sample customer: read back, dated, summed, and with its traps named. */
export function RateMargin({
  rate,
  tax,
  isWhole,
  issueBefore,
  currency,
  starts,
  today,
  compile,
  onStarts,
  savedYear = null,
}: Props) {
  const good = rate.faults.length === 0;
  const change = rate.firstYear !== null && savedYear !== null ? rate.firstYear - savedYear : null;
  return (
    <>
      <MarginHeading>What it will charge</MarginHeading>
      <DateField
        label="For a customer who starts on"
        value={starts}
        onChange={(event) => event.target.value !== '' && onStarts(event.target.value)}
      />
      {good && (
        <>
          <Text my="3" fontWeight="500">
            {sayRate(rate.sample as unknown as SayableTerms, tax)}
          </Text>
          {rate.traps.map(({ kind, says }) => (
            <Box key={kind} borderLeftWidth="3px" borderColor="trial" pl="3" mb="3" role="note">
              {says}
            </Box>
          ))}
        </>
      )}
      {isWhole && good && (
        <Text mb="2">
          One invoice for all of it is made at the start; what it comes to falls due in these parts:
        </Text>
      )}
      <TermsPreview
        terms={rate.sample}
        today={today}
        compile={compile}
        issueBefore={isWhole ? 0 : issueBefore}
      />
      {rate.firstYear !== null && (
        <Text mt="3">
          In the first year{tax ? ', with tax' : ''}: <b>{sayAmount(rate.firstYear, currency)}</b>
          {change !== null && change !== 0n && (
            <Box as="span" color="muted">
              , {sayAmount(change < 0n ? -change : change, currency)} {change < 0n ? 'less' : 'more'} than as
              it is saved
            </Box>
          )}
        </Text>
      )}
    </>
  );
}
