import { Box, Text } from '@chakra-ui/react';
import { useMemo, type ReactNode } from 'react';
import type { CompiledTerms } from '../../../../core/agreed/terms.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import { sayAmount } from '../../../../core/words/amount.ts';
import { sayDate } from '../../../../core/words/date.ts';
import { sayAgreed } from '../../../../core/words/sayAgreed.ts';
import type { TaxSaid } from '../../../../core/words/sayTax.ts';
import { firstDues, type FirstDue } from '../../../../core/listing/firstDues.ts';
import { useLaw, useTaxSaid } from '../../../api/useLaw.ts';
import { MarginHeading } from '../../../frame/PageAndMargin.tsx';
import { useFrame } from '../../../frame/useFrame.ts';
import { FirstPayment } from '../../../parts/FirstPayment.tsx';
import { PricesBeside } from '../../../parts/PricesBeside.tsx';
import { TermsPreview } from '../../../parts/TermsPreview.tsx';
import type { PaymentKind } from '../../../../server/settings/messages.ts';
import type { lawOf } from '../ContactFields.tsx';
import type { ComputedChoice } from './choice.ts';
import type { AlsoChosen } from './useAlso.ts';

interface Props {
  readonly computed: ComputedChoice | null;
  readonly compile: (terms: Terms) => CompiledTerms;
  /** The same, computed; null while it cannot be. */
  readonly compiled: CompiledTerms | null;
  readonly tax: TaxSaid;
  readonly starts: string;
  readonly shown: readonly FirstDue[] | null;
  readonly others: readonly AlsoChosen[];
  readonly law: ReturnType<typeof lawOf>;
  readonly paidAs: PaymentKind;
  /** So many days before it begins a full period is invoiced. */
  readonly issueBefore: number | undefined;
  readonly children: ReactNode;
}

/** What an enrolment will charge, day by day: the subscription, and each that begins beside it. */
export function EnrolMargin(props: Props) {
  const { computed, compile, compiled, tax, starts, shown, others, law, paidAs, issueBefore, children } =
    props;
  const { businessDate } = useFrame();
  const apart = others.filter(({ inside, rate }) => !inside && rate !== undefined);
  const from = starts > businessDate ? starts : businessDate;
  return (
    <>
      <MarginHeading>What will be charged</MarginHeading>
      {computed === null ? (
        <Text color="muted">Choose a plan to see its charges, day by day.</Text>
      ) : (
        <>
          {computed.card && (
            <PricesBeside
              title={`By the rate card ${computed.card.name}`}
              headings={['Ordinarily', 'By the card']}
              note={tax?.mode === 'exclusive' ? ' without tax' : ''}
              lines={computed.besides}
              currency={String(computed.terms.currency)}
            />
          )}
          {computed.agreed !== null && (
            <Text mb="2" fontWeight="500">
              {bearsSeveral(computed)
                ? 'Lines of several plans, each with its own tax'
                : sayAgreed(computed.agreed, from, tax)}
            </Text>
          )}
          <Box data-field="shown" tabIndex={-1}>
            <TermsPreview terms={computed.terms} today={businessDate} {...{ compile, issueBefore }} />
            {compiled && <FirstPayment terms={compiled} currency={String(computed.terms.currency)} />}
          </Box>
        </>
      )}
      {apart.map((other, i) => (
        <Beside
          key={i}
          {...{ other, law, paidAs, from }}
          first={shown?.[0]}
          isOnly={apart.length === 1}
          currencyOfFirst={computed?.terms.currency}
        />
      ))}
      {children}
    </>
  );
}

/** Whether lines bear other taxes than the rest: then no one tax can be said beside the price. */
function bearsSeveral({ sources, agreed }: ComputedChoice): boolean {
  if (sources.length > 0) return true;
  if (agreed === null || !('lines' in agreed)) return false;
  const usual = JSON.stringify(agreed.tax);
  return agreed.lines.some(({ tax }) => tax !== undefined && JSON.stringify(tax) !== usual);
}

/** A subscription that begins beside the first, day by day. */
function Beside(props: {
  readonly other: AlsoChosen;
  readonly law: Props['law'];
  readonly paidAs: PaymentKind;
  readonly from: string;
  /** The first charge of the first subscription. */
  readonly first: FirstDue | undefined;
  readonly isOnly: boolean;
  readonly currencyOfFirst: unknown;
}) {
  const { other, law, paidAs, from, first, isOnly, currencyOfFirst } = props;
  const { plan, rate, computed } = other;
  const { businessDate } = useFrame();
  const compile = useLaw(rate?.taxId, law, paidAs);
  const tax = useTaxSaid(rate?.taxId, computed?.terms.tax as Terms['tax'], businessDate, law);
  const agreed = computed?.agreed ?? null;
  const together = useMemo(() => {
    const [due] = agreed === null ? [] : firstDues(compile(agreed), 1);
    const isOneSum = isOnly && first !== undefined && due?.dueOn === first.dueOn;
    return isOneSum && agreed?.currency === currencyOfFirst ? BigInt(due.due) + BigInt(first.due) : null;
  }, [agreed, compile, first, isOnly, currencyOfFirst]);
  if (!plan || !computed) return null;
  const currency = String(computed.terms.currency);
  return (
    <Box as="section" aria-label={`Beside it: ${plan.name}`} mt="5">
      <MarginHeading>Beside it: {plan.name}</MarginHeading>
      {agreed !== null && (
        <Text mb="2" fontWeight="500">
          {sayAgreed(agreed, from, tax)}
        </Text>
      )}
      <TermsPreview
        terms={computed.terms}
        today={businessDate}
        compile={compile}
        issueBefore={rate?.options.issueDaysBefore}
      />
      {together !== null && first && (
        <Text mt="2">
          Both together on {sayDate(first.dueOn)}: <strong>{sayAmount(together, currency)}</strong>, as two
          payments.
        </Text>
      )}
    </Box>
  );
}
