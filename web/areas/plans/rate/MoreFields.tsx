import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { AreaField, SelectField } from '../../../parts/TextField.tsx';
import type { DiscountDraft, DraftChange, PauseDraft, RateDraft } from './draft.ts';
import { Part } from '../../../parts/Part.tsx';
import { DateField } from '../../../parts/DateField.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { AmountField, PercentField } from '../../../parts/AmountField.tsx';

interface Props {
  readonly draft: RateDraft;
  readonly onChange: DraftChange;
  readonly faultAt: (pointer: string) => string | undefined;
}

/** Stretches in which every subscription of the rate rests, such as a winter. */
export function PauseFields({ draft, onChange, faultAt }: Props) {
  const change = (at: number, to: Partial<PauseDraft>) =>
    onChange({ pauses: draft.pauses.map((one, i) => (i === at ? { ...one, ...to } : one)) });
  return (
    <Part title="Pauses for everybody">
      {draft.pauses.map((pause, i) => (
        <Flex
          key={i}
          gap="3"
          mb="2"
          align="flex-start"
          wrap="wrap"
          role="group"
          aria-label={`Pause ${i + 1}`}
        >
          <Box w="170px">
            <DateField
              label="Paused from"
              value={pause.from}
              error={faultAt(`/pauses/${i}/from`)}
              onChange={(event) => change(i, { from: event.target.value })}
            />
          </Box>
          <Box w="170px">
            <DateField
              label="On again from"
              value={pause.to}
              error={faultAt(`/pauses/${i}/to`)}
              onChange={(event) => change(i, { to: event.target.value })}
            />
          </Box>
          <Box w="270px">
            <SelectField
              label="After it"
              value={pause.resume}
              error={faultAt(`/pauses/${i}/rest`)}
              onChange={(event) => change(i, { resume: event.target.value as PauseDraft['resume'] })}
            >
              <option value="keep">billing days stay, the rest is free</option>
              <option value="prorate">billing days stay, the rest is paid</option>
              <option value="restart">billing days count anew from it</option>
            </SelectField>
          </Box>
          <Button
            mt="7"
            size="xs"
            variant="ghost"
            onClick={() => onChange({ pauses: draft.pauses.filter((_, j) => j !== i) })}
          >
            Take out
          </Button>
        </Flex>
      ))}
      <Button
        size="xs"
        variant="outline"
        onClick={() => onChange({ pauses: [...draft.pauses, { from: '', to: '', resume: 'keep' }] })}
      >
        Add a pause
      </Button>
    </Part>
  );
}

/** What is taken off for everybody who takes the rate, without a code. */
export function DiscountFields({ draft, onChange, faultAt }: Props) {
  const change = (at: number, to: Partial<DiscountDraft>) =>
    onChange({ discounts: draft.discounts.map((one, i) => (i === at ? { ...one, ...to } : one)) });
  return (
    <Part title="Taken off for everybody">
      {draft.discounts.map((discount, i) => (
        <Flex key={i} gap="3" mb="2" align="flex-start" role="group" aria-label={`Discount ${i + 1}`}>
          <Box w="120px">
            <SelectField
              label="As"
              value={discount.as}
              error={faultAt(`/discounts/${i}`)}
              onChange={(event) => change(i, { as: event.target.value as DiscountDraft['as'] })}
            >
              <option value="percent">percent</option>
              <option value="amount">amount</option>
            </SelectField>
          </Box>
          <Box w="110px">
            {discount.as === 'percent' ? (
              <PercentField
                label="Off"
                value={discount.off}
                error={faultAt(`/discounts/${i}/${discount.as}`)}
                onChange={(event) => change(i, { off: event.target.value })}
              />
            ) : (
              <AmountField
                label="Off"
                currency={draft.currency}
                value={discount.off}
                error={faultAt(`/discounts/${i}/${discount.as}`)}
                onChange={(event) => change(i, { off: event.target.value })}
              />
            )}
          </Box>
          <Box w="130px">
            <QuantityField
              label="For payments"
              most={999_999_999}
              placeholder="always"
              value={discount.payments}
              error={faultAt(`/discounts/${i}/payments`)}
              onChange={(event) => change(i, { payments: event.target.value })}
            />
          </Box>
          <Box w="180px">
            <SelectField
              label="Off what"
              value={discount.to}
              onChange={(event) => change(i, { to: event.target.value as DiscountDraft['to'] })}
            >
              <option value="recurring">what recurs</option>
              <option value="once">amounts once</option>
              <option value="all">all of it</option>
            </SelectField>
          </Box>
          <Button
            mt="7"
            size="xs"
            variant="ghost"
            onClick={() => onChange({ discounts: draft.discounts.filter((_, j) => j !== i) })}
          >
            Take out
          </Button>
        </Flex>
      ))}
      <Button
        size="xs"
        variant="outline"
        onClick={() =>
          onChange({
            discounts: [...draft.discounts, { as: 'percent', off: '', payments: '', to: 'recurring' }],
          })
        }
      >
        Add a discount
      </Button>
    </Part>
  );
}

/** Where due dates move that fall on a day not worked: by the calendar of Setup, or fixed in this rate. */
export function WorkingDayFields({ draft, onChange, faultAt }: Props) {
  return (
    <Flex gap="3" align="flex-start" mt="3">
      <Box w="300px">
        <SelectField
          label="Due on a day not worked"
          value={draft.shift}
          onChange={(event) => onChange({ shift: event.target.value as RateDraft['shift'] })}
        >
          <option value="">by the calendar of Setup</option>
          <option value="next">fixed here: the next working day</option>
          <option value="previous">fixed here: the one before</option>
        </SelectField>
      </Box>
      {draft.shift !== '' && (
        <Box w="260px">
          <AreaField
            label="Holidays beside weekends"
            rows={3}
            placeholder="2027-12-27"
            hint="One day a line, as YYYY-MM-DD."
            value={draft.holidays}
            error={draft.holidays
              .trim()
              .split(/\s+/)
              .map((_, i) => faultAt(`/workingDays/holidays/${i}`))
              .find((said) => said)}
            onChange={(event) => onChange({ holidays: event.target.value })}
          />
        </Box>
      )}
      <Text role="alert" color="declined">
        {faultAt('/workingDays')}
      </Text>
    </Flex>
  );
}
