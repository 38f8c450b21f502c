import { Box, Input, InputGroup } from '@chakra-ui/react';
import { printAmount, readAmount } from '../../core/typed/amount.ts';
import { exponentOf } from '../../core/money/currency.ts';
import { decimalsOf, parseDecimal } from '../../core/money/decimal.ts';
import { sayTaxBeside, sayTaxed, type TaxSaid } from '../../core/words/sayTax.ts';
import { useTaxHere } from './taxSaid.ts';
import { useManner } from './manner.ts';
import { LabelledField, type FieldChange, type FieldProps } from './TextField.tsx';
import { Understood } from './Understood.tsx';
import { useTyped } from './useTyped.ts';

interface DecimalProps extends FieldProps {
  /** A decimal string with a point, as it is stored. */
  readonly value: string;
  readonly onChange: FieldChange;
  /** Most decimals. */
  readonly decimals: number;
  /** What it is counted in, beside it. */
  readonly unit?: string;
  readonly placeholder?: string | undefined;
  readonly 'aria-label'?: string;
}

/** Decimals that the price of one unit may have. */
export const UNIT_DECIMALS = 12;

/** A decimal number, typed and printed in the business's manner. */
export function DecimalField(props: DecimalProps & { readonly currency?: string; readonly least?: number }) {
  const { value, onChange, decimals, unit, placeholder, currency = null, least = 0, ...field } = props;
  const { locale } = useManner();
  const { understood, says, bind } = useTyped({
    value,
    onChange,
    read: (text) => readAmount(text, locale, { currency, decimals }),
    print: (stored) => printAmount(stored, locale, least),
  });
  const input = (
    <Input
      size="sm"
      bg="page"
      inputMode="decimal"
      autoComplete="off"
      maxLength={60}
      textAlign={unit ? 'end' : 'start'}
      {...(unit ? { pe: unit.length > 2 ? '11' : '7' } : {})}
      placeholder={placeholder}
      aria-label={props['aria-label']}
      {...bind}
    />
  );
  return (
    <LabelledField {...field} error={says ?? field.error} hint={field.hint}>
      <Box position="relative" w="full">
        {unit ? (
          <InputGroup endElement={unit} endElementProps={{ px: '2', color: 'muted', fontSize: '12px' }}>
            {input}
          </InputGroup>
        ) : (
          input
        )}
        <Understood says={/[^\d.,]/.test(bind.value) || /\d,\d/.test(bind.value) ? understood : null} />
      </Box>
    </LabelledField>
  );
}

/** An amount of money in a currency, by default with its decimals. */
export function AmountField(
  props: Omit<DecimalProps, 'decimals' | 'unit'> & { readonly currency: string; readonly decimals?: number },
) {
  const own = exponentOf(props.currency) ?? 2;
  const tax = useTaxHere();
  const hint = props.hint ?? sayTyped(props.value, props.currency, own, tax);
  const unit = props.label.includes(props.currency) ? {} : { unit: props.currency };
  return <DecimalField {...props} {...unit} hint={hint} least={own} decimals={props.decimals ?? own} />;
}

/** What a typed amount comes to with its tax; of a price of a unit only what is added. */
function sayTyped(value: string, currency: string, digits: number, tax: TaxSaid): string | undefined {
  const decimals = decimalsOf(value);
  if (!tax || decimals === null) return undefined;
  return decimals <= digits
    ? sayTaxed(parseDecimal(value, digits), currency, tax)
    : sayTaxBeside('', tax).replace(/^[ ,]+/, '');
}

/** A rate in percent, with so many decimals as taxes have. */
export function PercentField(props: Omit<DecimalProps, 'decimals' | 'unit'>) {
  return <DecimalField {...props} unit="%" decimals={4} />;
}
