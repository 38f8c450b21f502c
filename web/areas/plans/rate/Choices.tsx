import { Box, Flex, RadioGroup, Text } from '@chakra-ui/react';
import { useDeferredValue, useMemo } from 'react';
import { formatDay, toDay } from '../../../../core/dates/day.ts';
import { paymentsOf } from '../../../../core/listing/listPayments.ts';
import type { Payment } from '../../../../core/listing/payment.ts';
import { outlineOf } from '../../../../core/listing/outline.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import { compileTerms } from '../../../../core/terms/compile.ts';
import type { CompiledTerms } from '../../../../core/agreed/terms.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import { sayAmount } from '../../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../../core/words/date.ts';
import { SelectField } from '../../../parts/TextField.tsx';
import { termsOf, type RateDraft } from './draft.ts';
import { DateField } from '../../../parts/DateField.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';

type Compile = (terms: Terms) => CompiledTerms;

interface Props {
  readonly draft: RateDraft;
  /** Reads terms by the taxes and calendar in force. */
  readonly compile: Compile;
  /** The day on which the sample customer starts. */
  readonly starts: string;
  readonly onChange: (to: Partial<RateDraft>) => void;
  readonly faultAt: (pointer: string) => string | undefined;
}

/** The first payments of a draft with some of it decided otherwise; null while it cannot be computed. */
function paymentsIf(
  draft: RateDraft,
  starts: string,
  otherwise: Partial<RateDraft>,
  compile: Compile = compileTerms,
): readonly Payment[] | null {
  const checked = checkTerms({ ...sample(draft, otherwise), starts });
  if (!checked.ok) return null;
  try {
    return [...paymentsOf(compile(checked.terms), { count: 40 })];
  } catch {
    return null;
  }
}

function sample(draft: RateDraft, otherwise: Partial<RateDraft>): Record<string, unknown> {
  const terms = termsOf({ ...draft, ...otherwise, once: [] });
  return terms;
}

/** A start that has a part period before its first full one, or null: of the sample start, or of the day after. */
export function startWithStub(draft: RateDraft, starts: string): string | null {
  if (draft.kind === 'one-off' || draft.anchor.kind === 'none') return null;
  for (let day = toDay(starts), n = 0; n < 2; n += 1) {
    const from = formatDay(day + n);
    const payments = paymentsIf(draft, from, { stub: 'full', trial: '', ends: 'never' });
    if (payments?.some(({ kind }) => kind === 'stub')) return from;
  }
  return null;
}

const STUBS = { prorate: 'its part of the price', full: 'the full price', free: 'nothing' } as const;

/** The three outcomes of a start off the billing day, with dates and amounts: one is picked, none by itself. */
export function StubChoices({ draft: typed, starts, compile, onChange, faultAt }: Props) {
  const draft = useDeferredValue(typed);
  const outcomes = useMemo(() => {
    const from = startWithStub(draft, starts);
    if (from === null) return null;
    const of = (stub: keyof typeof STUBS) =>
      paymentsIf(
        draft,
        from,
        { stub, trial: '', ends: draft.ends === 'until' ? 'never' : draft.ends },
        compile,
      );
    return { from, payments: { prorate: of('prorate'), full: of('full'), free: of('free') } };
  }, [draft, starts, compile]);
  if (outcomes === null) return null;
  return (
    <Box mt="4">
      <Text fontWeight="500" mb="1">
        Whoever starts between billing days, such as on {sayDate(outcomes.from)}, pays for the first part:
      </Text>
      <RadioGroup.Root
        aria-label="What the first part period costs"
        data-field="stub"
        colorPalette="kelp"
        value={typed.stub}
        onValueChange={({ value }) => onChange({ stub: value as RateDraft['stub'] })}
      >
        {(Object.keys(STUBS) as (keyof typeof STUBS)[]).map((stub) => (
          <RadioGroup.Item
            key={stub}
            value={stub}
            alignItems="flex-start"
            mb="1"
            disabled={outcomes.payments[stub] === null}
          >
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator mt="1" />
            <RadioGroup.ItemText>
              <b>{STUBS[stub]}</b>: {sayFirst(outcomes.payments[stub], draft.currency)}
            </RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
      <Text role="alert" color="declined">
        {faultAt('/stub') ?? (typed.stub === '' ? 'Pick one: nothing is taken for granted here.' : '')}
      </Text>
    </Box>
  );
}

function sayFirst(payments: readonly Payment[] | null, currency: string): string {
  if (payments === null) return 'this cannot be computed';
  const [first, second] = payments;
  const one = (payment: Payment | undefined) =>
    payment ? `${sayAmount(payment.due, currency)} on ${sayDate(formatDay(payment.dueOn))}` : 'no more';
  return `${one(first)}, then ${one(second)}`;
}

/** Whether and how it ends; where it ends on a date, both readings of that date with what they come to. */
export function EndChoices({ draft, starts, compile, onChange, faultAt }: Props) {
  const settled = useDeferredValue(draft);
  const readings = useMemo(() => {
    const draft = settled;
    if (draft.ends !== 'until' || draft.until === '') return null;
    const whole = paymentsIf(draft, starts, { endStub: 'whole' }, compile);
    const prorate = paymentsIf(draft, starts, { endStub: 'prorate' }, compile);
    if (!whole || !prorate) return null;
    const differ = whole.at(-1)?.due !== prorate.at(-1)?.due;
    return differ ? { whole, prorate } : null;
  }, [settled, starts, compile]);
  return (
    <>
      <Flex gap="3" align="flex-start" wrap="wrap">
        <Box w="240px">
          <SelectField
            label="It ends"
            value={draft.ends}
            error={faultAt('/ends')}
            onChange={(event) => onChange({ ends: event.target.value as RateDraft['ends'] })}
          >
            <option value="never">when somebody ends it</option>
            <option value="after">after a number of payments</option>
            <option value="until">on a date</option>
          </SelectField>
        </Box>
        {draft.ends === 'after' && (
          <Box w="130px">
            <QuantityField
              label="Payments"
              most={99_999}
              value={draft.after}
              error={faultAt('/ends/after')}
              onChange={(event) => onChange({ after: event.target.value })}
            />
          </Box>
        )}
        {draft.ends === 'until' && (
          <Box w="170px">
            <DateField
              label="Last day"
              value={draft.until}
              error={faultAt('/ends/until')}
              onChange={(event) => onChange({ until: event.target.value })}
            />
          </Box>
        )}
      </Flex>
      {readings && (
        <Box mt="3">
          <Text fontWeight="500" mb="1">
            A period runs over {sayDayMonthYear(draft.until)}. Its last payment:
          </Text>
          <RadioGroup.Root
            aria-label="What the last period costs"
            data-field="endStub"
            colorPalette="kelp"
            value={draft.endStub}
            onValueChange={({ value }) => onChange({ endStub: value as RateDraft['endStub'] })}
          >
            {(['whole', 'prorate'] as const).map((reading) => (
              <RadioGroup.Item key={reading} value={reading} alignItems="flex-start" mb="1">
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator mt="1" />
                <RadioGroup.ItemText>
                  <b>{reading === 'whole' ? 'the whole period' : 'its part up to that day'}</b>:{' '}
                  {sayLast(readings[reading], draft)}
                </RadioGroup.ItemText>
              </RadioGroup.Item>
            ))}
          </RadioGroup.Root>
          {draft.endStub === '' && (
            <Text role="alert" color="declined">
              Pick one: nothing is taken for granted here.
            </Text>
          )}
        </Box>
      )}
      <Instalments draft={draft} starts={starts} compile={compile} />
    </>
  );
}

function sayLast(payments: readonly Payment[], draft: RateDraft): string {
  const last = payments.at(-1);
  if (!last) return 'nothing';
  return `${sayAmount(last.due, draft.currency)} on ${sayDate(formatDay(last.dueOn))}, for service up to ${sayDate(formatDay(last.to - 1))}`;
}

/** How instalments stand against the same paid at once. */
function Instalments({ draft, starts, compile }: Pick<Props, 'draft' | 'starts' | 'compile'>) {
  if (!draft.lines.some(({ scheme }) => scheme === 'instalments')) return null;
  const payments = paymentsIf(draft, starts, {}, compile);
  const checked = checkTerms({ ...termsOf(draft), starts });
  if (!payments || !checked.ok || draft.ends !== 'after')
    return <Text mt="2">Instalments end after a number of payments: give it.</Text>;
  const end = outlineOf(compileTerms(checked.terms)).ends;
  const sum = payments.reduce((total, { due }) => total + due, 0n);
  return (
    <Text mt="2">
      {payments.length} payments come to {sayAmount(sum, draft.currency)} in all
      {end === null ? '' : `, the last service on ${sayDate(formatDay(end - 1))}`}.
    </Text>
  );
}
