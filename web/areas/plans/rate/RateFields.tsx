import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import type { CompiledTerms } from '../../../../core/agreed/terms.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import { CURRENCIES } from '../../../../core/money/currency.ts';
import type { TaxView } from '../../../../server/taxes/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { AnchorFields } from './AnchorFields.tsx';
import { NEW_LINE, type DraftChange, type RateDraft } from './draft.ts';
import { EndChoices, StubChoices } from './Choices.tsx';
import { LineFields } from './LineFields.tsx';
import { DiscountFields, PauseFields, WorkingDayFields } from './MoreFields.tsx';
import { OptionFields } from './OptionFields.tsx';
import { Part } from '../../../parts/Part.tsx';
import { UnitField } from './UnitField.tsx';
import { DateField } from '../../../parts/DateField.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { AmountField, PercentField } from '../../../parts/AmountField.tsx';
import { sayTaxBeside } from '../../../../core/words/sayTax.ts';
import { useTaxSaid } from '../../../api/useLaw.ts';
import { useManner } from '../../../parts/manner.ts';
import { TaxSaidContext } from '../../../parts/taxSaid.ts';
import { useTaxOfDraft } from './taxOfDraft.ts';

export interface FieldsProps {
  readonly draft: RateDraft;
  readonly onChange: DraftChange;
  /** What is wrong at a pointer into the terms. */
  readonly faultAt: (pointer: string) => string | undefined;
}

/** Everything that a rate can say, in the words of a bookkeeper. */
export function RateFields(
  props: FieldsProps & { readonly starts: string; readonly compile: (terms: Terms) => CompiledTerms },
) {
  const { draft, onChange, faultAt } = props;
  const bind = (name: 'name' | 'every' | 'trial' | 'trialAmount' | 'setup' | 'termDays') => ({
    value: draft[name],
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  const tax = useTaxOfDraft(draft);
  return (
    <TaxSaidContext value={tax}>
      <Grid gap="5">
        <Flex gap="3" align="flex-start">
          <TextField
            label="Name of the rate"
            field="rate-name"
            required
            maxLength={120}
            error={draft.name.trim() === '' ? 'Give the rate a name, such as Monthly.' : undefined}
            {...bind('name')}
          />
          <Box w="110px" flexShrink={0}>
            <SelectField
              label="Currency"
              value={draft.currency}
              onChange={(event) => onChange({ currency: event.target.value })}
            >
              {CURRENCIES.map((code) => (
                <option key={code}>{code}</option>
              ))}
            </SelectField>
          </Box>
          <Box w="190px" flexShrink={0}>
            <SelectField
              label="Charged"
              value={draft.kind}
              onChange={(event) => onChange({ kind: event.target.value as RateDraft['kind'] })}
            >
              <option value="recurring">again and again</option>
              <option value="one-off">once: a one-off sale</option>
            </SelectField>
          </Box>
        </Flex>
        {draft.kind === 'recurring' && (
          <>
            {draft.lines.map((line, i) => (
              <LineFields
                key={i}
                line={line}
                at={i}
                several={draft.lines.length > 1}
                currency={draft.currency}
                faultAt={(pointer) => faultAt(`/lines/${i}${pointer}`)}
                onDraft={onChange}
                onRemove={() => onChange({ lines: draft.lines.filter((_, j) => j !== i) })}
              />
            ))}
            <Box>
              <Button
                size="xs"
                variant="outline"
                onClick={() => onChange({ lines: [...draft.lines, NEW_LINE] })}
              >
                Add another line
              </Button>
            </Box>
            <Part title="When">
              <Flex gap="3" align="flex-start" wrap="wrap">
                <Box w="90px">
                  <QuantityField label="Every" most={999} error={faultAt('/interval')} {...bind('every')} />
                </Box>
                <Box w="120px">
                  <UnitField label="Interval" value={draft.unit} onChange={(unit) => onChange({ unit })} />
                </Box>
                <AnchorFields
                  anchor={draft.anchor}
                  unit={draft.unit}
                  faultAt={faultAt}
                  onChange={(to) => onChange({ anchor: { ...draft.anchor, ...to } })}
                />
              </Flex>
              <StubChoices {...props} />
            </Part>
            <Part title="How it begins">
              <Flex gap="3" align="flex-start" wrap="wrap">
                <Box w="90px">
                  <QuantityField
                    label="Trial of"
                    most={999}
                    placeholder="none"
                    error={faultAt('/trial/length')}
                    {...bind('trial')}
                  />
                </Box>
                <Box w="110px">
                  <UnitField
                    label="Its length in"
                    value={draft.trialUnit}
                    onChange={(trialUnit) => onChange({ trialUnit })}
                  />
                </Box>
                <Box w="130px">
                  <AmountField
                    label="Its price"
                    currency={draft.currency}
                    placeholder="free"
                    error={faultAt('/trial/amount')}
                    {...bind('trialAmount')}
                  />
                </Box>
                <Box w="130px">
                  <AmountField
                    label="Set-up fee"
                    currency={draft.currency}
                    placeholder="none"
                    error={faultAt('/setup/amount')}
                    {...bind('setup')}
                  />
                </Box>
                <Box w="170px">
                  <SelectField
                    label="It is due"
                    value={draft.setupWhen}
                    onChange={(event) =>
                      onChange({ setupWhen: event.target.value as RateDraft['setupWhen'] })
                    }
                  >
                    <option value="start">at the start</option>
                    <option value="after-trial">after the trial</option>
                  </SelectField>
                </Box>
              </Flex>
              {draft.setup.trim() !== '' && draft.options.begins !== 'enrolment' && (
                <Box role="note" borderLeftWidth="3px" borderColor="trial" pl="3" mt="3">
                  The set-up fee waits until what recurs begins. To have it on the day of enrolment, make it
                  an amount paid once.{' '}
                  <Button
                    size="2xs"
                    variant="outline"
                    onClick={() =>
                      onChange((now) => ({
                        setup: '',
                        once: [...now.once, { name: 'Set-up', amount: now.setup, date: '' }],
                      }))
                    }
                  >
                    Charge it on the day of enrolment
                  </Button>
                </Box>
              )}
            </Part>
            <Part title="How it ends">
              <EndChoices {...props} />
            </Part>
          </>
        )}
        {draft.kind === 'recurring' && <PauseFields {...props} />}
        <OnceFields {...props} />
        <DiscountFields {...props} />
        <TaxAndTerm {...props} />
        <OptionFields draft={draft} onChange={onChange} />
      </Grid>
    </TaxSaidContext>
  );
}

function OnceFields({ draft, onChange, faultAt }: FieldsProps) {
  const change = (at: number, to: Partial<RateDraft['once'][number]>) =>
    onChange({ once: draft.once.map((one, i) => (i === at ? { ...one, ...to } : one)) });
  return (
    <Part title={draft.kind === 'one-off' ? 'What is sold' : 'Fixed amounts, once'}>
      {draft.once.map((one, i) => (
        <Flex key={i} gap="3" mb="2" align="flex-start">
          <TextField
            label="For"
            maxLength={120}
            value={one.name}
            onChange={(event) => change(i, { name: event.target.value })}
          />
          <Box w="130px" flexShrink={0}>
            <AmountField
              label={`Amount, ${draft.currency}`}
              currency={draft.currency}
              value={one.amount}
              error={faultAt(`/once/${i}/amount`)}
              onChange={(event) => change(i, { amount: event.target.value })}
            />
          </Box>
          <Box w="170px" flexShrink={0}>
            <DateField
              label="On"
              value={one.date}
              hint={one.date === '' ? 'The day it starts.' : undefined}
              error={faultAt(`/once/${i}/date`)}
              onChange={(event) => change(i, { date: event.target.value })}
            />
          </Box>
          <Button
            mt="7"
            size="xs"
            variant="ghost"
            onClick={() => onChange({ once: draft.once.filter((_, j) => j !== i) })}
          >
            Take out
          </Button>
        </Flex>
      ))}
      <Text role="alert" color="declined">
        {faultAt('/once')}
      </Text>
      <Button
        size="xs"
        variant="outline"
        onClick={() => onChange({ once: [...draft.once, { name: '', amount: '', date: '' }] })}
      >
        Add an amount
      </Button>
    </Part>
  );
}

function TaxAndTerm({ draft, onChange, faultAt }: FieldsProps) {
  const { data: taxes } = useAnswer<TaxView[]>('/api/taxes');
  const { today } = useManner();
  const defaultTax = useTaxSaid(undefined, undefined, today);
  return (
    <Part title="Tax and payment">
      <Flex gap="3" align="flex-start" wrap="wrap">
        <Box w="220px">
          <SelectField
            label="Tax"
            value={draft.tax}
            onChange={(event) => onChange({ tax: event.target.value as RateDraft['tax'] })}
          >
            <option value="default">
              the default of Setup
              {defaultTax
                ? `: ${sayTaxBeside('', defaultTax).replace(/^[ ,+]+/, '')}${defaultTax.mode === 'exclusive' ? ' on top' : ''}`
                : ''}
            </option>
            <option value="none">none</option>
            <option value="own">fixed here</option>
            {taxes
              ?.filter(({ retiredOn }) => retiredOn === null)
              .map(({ id, name }) => (
                <option key={id} value={`tax:${id}`}>
                  {name}
                </option>
              ))}
          </SelectField>
        </Box>
        {draft.tax === 'own' && (
          <>
            <Box w="100px">
              <PercentField
                label="Percent"

                value={draft.taxRate}
                error={faultAt('/tax/rate')}
                onChange={(event) => onChange({ taxRate: event.target.value })}
              />
            </Box>
            <Box w="180px">
              <SelectField
                label="It stands"
                value={draft.taxMode}
                onChange={(event) => onChange({ taxMode: event.target.value as RateDraft['taxMode'] })}
              >
                <option value="exclusive">on top of the price</option>
                <option value="inclusive">inside the price</option>
              </SelectField>
            </Box>
          </>
        )}
        <Box w="170px">
          <QuantityField
            label="Paid within, days"
            most={9_999}
            placeholder="at once"
            value={draft.termDays}
            error={faultAt('/terms')}
            onChange={(event) => onChange({ termDays: event.target.value })}
          />
        </Box>
      </Flex>
      <WorkingDayFields draft={draft} onChange={onChange} faultAt={faultAt} />
    </Part>
  );
}
