import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import type { PlanView } from '../../../server/plans/messages.ts';
import type { Asked } from '../../../server/signUp/messages.ts';
import { CONTACT_FIELDS, type ContactField, type SectionView } from '../../../server/settings/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Fold } from '../../parts/Fold.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';
import type { PartProps } from './partProps.ts';

/** Comes when questions are looked at. */
const AskFields = lazy(() =>
  import('../plans/plan/AskFields.tsx').then((part) => ({ default: part.AskFields })),
);

/** What is asked of whoever joins, and what is left to them to choose. */
export function AskedHere({
  draft,
  faultAt,
  onChange,
  plans,
}: PartProps & { readonly plans: readonly PlanView[] }) {
  const { data: setup } = useAnswer<SectionView<'customers'>>('/api/setup/customers');
  const otherwise =
    Object.values(draft.ask).filter((how) => how !== 'setup').length +
    Object.values(draft.fields).filter((how) => how !== 'setup').length;
  const left = [
    draft.quantityMost === '' ? '' : `up to ${draft.quantityMost}`,
    draft.codes ? 'codes' : '',
    draft.startWithin === '' ? '' : `a start within ${draft.startWithin} days`,
    draft.billingDay ? 'the day of payment' : '',
  ].filter(Boolean);
  const questions = draft.questions.length;
  const [isOpen, setOpen] = useState(questions > 0);
  const asks = plans
    .filter(({ rates }) => rates.some(({ id }) => draft.rates.includes(id)))
    .flatMap((one) => one.asks);
  return (
    <>
      <Fold
        title="What customers are asked"
        onOpen={() => setOpen(true)}
        holds={[
          otherwise === 0 ? 'as Setup says' : `${otherwise} otherwise than Setup`,
          questions === 0 ? '' : questions === 1 ? 'one question' : `${questions} questions`,
        ]
          .filter(Boolean)
          .join(', ')}
      >
        <Grid templateColumns="1fr 1fr" gap="3" mb="4">
          {(Object.keys(CONTACT_FIELDS) as ContactField[]).map((name) => (
            <HowAsked
              key={name}
              label={CONTACT_FIELDS[name]}
              usual={setup?.value.ask[name]}
              how={draft.ask[name]}
              onChange={(how) => onChange({ ask: { ...draft.ask, [name]: how } })}
            />
          ))}
          {setup?.value.fields.map(({ label, required }) => (
            <HowAsked
              key={label}
              label={label}
              usual={required ? 'required' : 'optional'}
              how={draft.fields[label] ?? 'setup'}
              onChange={(how) => onChange({ fields: { ...draft.fields, [label]: how } })}
            />
          ))}
        </Grid>
        {isOpen && (
          <Suspense fallback={null}>
            <AskFields
              title="Questions of this page"
              asks={draft.questions}
              faultAt={(pointer) => faultAt(pointer.replace(/^\/asks/, '/questions'))}
              onChange={(to) => onChange({ questions: to })}
            />
          </Suspense>
        )}
        {asks.length > 0 && (
          <Text color="muted" mt="2" fontSize="13px">
            The plan asks by itself: {asks.map(({ label }) => label).join(', ')}.
          </Text>
        )}
      </Fold>
      <Fold
        title="What they may choose"
        holds={left.length === 0 ? 'a rate, and how it is paid' : left.join(', ')}
      >
        <Flex gap="3" align="flex-start" wrap="wrap">
          <TextField
            label="Most of what is counted"
            field="/quantityMost"
            w="220px"
            inputMode="numeric"
            maxLength={9}
            hint="Empty: one is taken."
            value={draft.quantityMost}
            error={faultAt('/quantityMost')}
            onChange={(event) => onChange({ quantityMost: event.target.value })}
          />
          <TextField
            label="A start so many days ahead"
            field="/startWithin"
            w="220px"
            inputMode="numeric"
            maxLength={3}
            hint="Empty: it starts at once."
            value={draft.startWithin}
            error={faultAt('/startWithin')}
            onChange={(event) => onChange({ startWithin: event.target.value })}
          />
        </Flex>
        <Box mt="2">
          <TickField
            label="Codes are taken"
            checked={draft.codes}
            onChange={(codes) => onChange({ codes })}
          />
          <TickField
            label="They choose the day of the month on which they pay"
            checked={draft.billingDay}
            onChange={(billingDay) => onChange({ billingDay })}
          />
        </Box>
      </Fold>
    </>
  );
}

const SAYS: Readonly<Record<'no' | 'optional' | 'required', string>> = {
  no: 'not asked',
  optional: 'may be left empty',
  required: 'needed',
};

function HowAsked(props: {
  readonly label: string;
  readonly usual: 'no' | 'optional' | 'required' | undefined;
  readonly how: Asked;
  readonly onChange: (how: Asked) => void;
}) {
  const { label, usual, how, onChange } = props;
  return (
    <SelectField label={label} value={how} onChange={(event) => onChange(event.target.value as Asked)}>
      <option value="setup">as in Setup{usual ? `: ${SAYS[usual]}` : ''}</option>
      {(Object.keys(SAYS) as (keyof typeof SAYS)[]).map((one) => (
        <option key={one} value={one}>
          {SAYS[one]}
        </option>
      ))}
    </SelectField>
  );
}
