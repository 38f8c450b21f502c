import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import type { OwnLine } from '../../../../core/offer/ownTerms.ts';
import type { RateView } from '../../../../server/plans/messages.ts';
import { AmountField, PercentField } from '../../../parts/AmountField.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { AreaField, SelectField, TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import type { OwnDraft } from './ownDraft.ts';

interface Props {
  readonly rate: RateView;
  readonly draft: OwnDraft;
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (to: Partial<OwnDraft>) => void;
}

const DAYS = Array.from({ length: 31 }, (_, i) => String(i + 1));

/** What is agreed with this customer alone: the margin shows at once what it comes to. */
export default function OwnFields({ rate, draft, faultAt, onChange }: Props) {
  const { currency, interval } = rate.terms as { currency: string; interval?: string };
  const recurs = rate.terms.lines !== undefined;
  const byMonth = recurs && /[MY]$/.test(interval ?? '');
  return (
    <Grid gap="3" data-part="own">
      <Flex gap="3" align="flex-start" wrap="wrap">
        {byMonth && (
          <SelectField
            label="Billing day"
            field="own/billingDay"
            w="170px"
            value={draft.billingDay}
            error={faultAt('own/billingDay')}
            onChange={(event) => onChange({ billingDay: event.target.value })}
          >
            <option value="">as the rate says</option>
            {DAYS.map((day) => (
              <option key={day}>{day}</option>
            ))}
            <option value="last">the last</option>
          </SelectField>
        )}
        {recurs && (
          <AmountField
            label="Set-up, once"
            field="own/setUp"
            w="150px"
            currency={currency}
            placeholder="as the rate"
            hint="0: none."
            value={draft.setUp}
            error={faultAt('own/setUp')}
            onChange={(event) => onChange({ setUp: event.target.value })}
          />
        )}
        {recurs && (
          <QuantityField
            label="Trial, days"
            field="own/trialDays"
            w="130px"
            most={366}
            placeholder="as the rate"
            hint="0: none."
            value={draft.trialDays}
            error={faultAt('own/trialDays')}
            onChange={(event) => onChange({ trialDays: event.target.value })}
          />
        )}
        <QuantityField
          label="Days to pay"
          field="own/termDays"
          w="130px"
          most={365}
          placeholder="as the rate"
          value={draft.termDays}
          error={faultAt('own/termDays')}
          onChange={(event) => onChange({ termDays: event.target.value })}
        />
      </Flex>
      <Flex gap="3" align="flex-start" wrap="wrap" role="group" aria-label="Discount of this agreement">
        <SelectField
          label="Taken off"
          w="130px"
          value={draft.offAs}
          onChange={(event) => onChange({ offAs: event.target.value as OwnDraft['offAs'], off: '' })}
        >
          <option value="percent">per cent</option>
          <option value="amount">an amount</option>
        </SelectField>
        {draft.offAs === 'percent' ? (
          <PercentField
            label="How much"
            field="own/discount"
            w="130px"
            value={draft.off}
            error={faultAt('own/discount')}
            onChange={(event) => onChange({ off: event.target.value })}
          />
        ) : (
          <AmountField
            label="How much"
            field="own/discount"
            w="150px"
            currency={currency}
            value={draft.off}
            error={faultAt('own/discount')}
            onChange={(event) => onChange({ off: event.target.value })}
          />
        )}
        <QuantityField
          label="For so many payments"
          field="own/discount/payments"
          w="180px"
          most={1000}
          placeholder="all"
          value={draft.offPayments}
          error={faultAt('own/discount/payments')}
          onChange={(event) => onChange({ offPayments: event.target.value })}
        />
      </Flex>
      <OwnLines {...{ draft, faultAt, onChange, currency, recurs }} />
      <Box>
        <TickField
          label="No tax is charged"
          checked={draft.untaxed}
          onChange={(untaxed) => onChange({ untaxed })}
        />
        {draft.untaxed && (
          <TextField
            label="Because"
            field="own/noTaxBecause"
            required
            maxLength={200}
            hint="It stands on every invoice, and is kept with the agreement."
            value={draft.because}
            error={faultAt('own/noTaxBecause')}
            onChange={(event) => onChange({ because: event.target.value })}
          />
        )}
      </Box>
      <AreaField
        label="Note on every invoice"
        field="own/note"
        rows={2}
        maxLength={500}
        value={draft.note}
        error={faultAt('own/note')}
        onChange={(event) => onChange({ note: event.target.value })}
      />
    </Grid>
  );
}

/** Lines that no plan has. */
function OwnLines(props: Omit<Props, 'rate'> & { readonly currency: string; readonly recurs: boolean }) {
  const { draft, faultAt, onChange, currency, recurs } = props;
  const { lines } = draft;
  const set = (at: number, to: Partial<OwnLine>) =>
    onChange({ lines: lines.map((line, i) => (i === at ? { ...line, ...to } : line)) });
  return (
    <Box role="group" aria-label="Lines of this agreement alone">
      {lines.length > 0 && <Text fontWeight="500">Lines of this agreement alone</Text>}
      {lines.map((line, i) => (
        <Flex key={i} gap="3" align="flex-start" mb="2">
          <TextField
            label="What"
            field={`own/lines/${i}/name`}
            required
            maxLength={200}
            value={line.name}
            error={faultAt(`own/lines/${i}/name`) ?? faultAt(`own/lines/${i}`)}
            onChange={(event) => set(i, { name: event.target.value })}
          />
          <AmountField
            label="Amount"
            field={`own/lines/${i}/amount`}
            w="150px"
            currency={currency}
            value={line.amount}
            error={faultAt(`own/lines/${i}/amount`)}
            onChange={(event) => set(i, { amount: event.target.value })}
          />
          {recurs && (
            <SelectField
              label="When"
              w="140px"
              value={line.when}
              onChange={(event) => set(i, { when: event.target.value as OwnLine['when'] })}
            >
              <option value="recurring">each time</option>
              <option value="once">once</option>
            </SelectField>
          )}
          <Button
            size="xs"
            variant="outline"
            mt="6"
            aria-label={`Leave out line ${i + 1}`}
            onClick={() => onChange({ lines: lines.filter((_, at) => at !== i) })}
          >
            Leave out
          </Button>
        </Flex>
      ))}
      {lines.length < 20 && (
        <Button
          size="xs"
          variant="outline"
          onClick={() =>
            onChange({ lines: [...lines, { name: '', amount: '', when: recurs ? 'recurring' : 'once' }] })
          }
        >
          Add a line of this agreement alone
        </Button>
      )}
    </Box>
  );
}
