import { Flex, Grid } from '@chakra-ui/react';
import { PLAN_KINDS, type PlanKind } from '../../../core/offer/kinds.ts';
import { FormattedText } from '../../parts/FormattedText.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';

/** What a plan says of itself, as it is typed. */
export interface PlanFacts {
  readonly name: string;
  readonly outerName: string;
  readonly kind: PlanKind;
  readonly description: string;
  readonly statementText: string;
}

export const NO_FACTS: PlanFacts = {
  name: '',
  outerName: '',
  kind: 'service',
  description: '',
  statementText: '',
};

interface Props {
  readonly facts: PlanFacts;
  readonly faultAt: (name: keyof PlanFacts) => string | undefined;
  readonly onChange: (to: Partial<PlanFacts>) => void;
}

/** The fields of a plan apart from its rates. */
export function PlanFields({ facts, faultAt, onChange }: Props) {
  const bind = (name: keyof PlanFacts) => ({
    field: name,
    value: facts[name],
    error: faultAt(name),
    onChange: (event: { target: { value: string } }) => onChange({ [name]: event.target.value }),
  });
  return (
    <Grid gap="4">
      <Flex gap="3" align="flex-start">
        <TextField label="Name" required maxLength={120} hint="What you call it." {...bind('name')} />
        <TextField
          label="Name for customers"
          maxLength={120}
          hint="Empty: the same."
          {...bind('outerName')}
        />
      </Flex>
      <FormattedText
        label="Description"
        value={facts.description}
        error={faultAt('description')}
        onChange={(description) => onChange({ description })}
      />
      <Flex gap="3" align="flex-start">
        <SelectField
          label="Kind"
          value={facts.kind}
          onChange={(event) => onChange({ kind: event.target.value as PlanKind })}
        >
          {Object.entries(PLAN_KINDS).map(([kind, says]) => (
            <option key={kind} value={kind}>
              {says}
            </option>
          ))}
        </SelectField>
        <TextField
          label="Bank-statement text"
          maxLength={22}
          hint="Empty: the business’s own."
          {...bind('statementText')}
        />
      </Flex>
    </Grid>
  );
}
