import { SelectField } from '../../../parts/TextField.tsx';

export type Unit = 'D' | 'W' | 'M' | 'Y';
const UNITS: Readonly<Record<Unit, string>> = { D: 'days', W: 'weeks', M: 'months', Y: 'years' };

interface Props {
  readonly label: string;
  readonly value: Unit;
  readonly onChange: (unit: Unit) => void;
}

/** What a length of time is counted in. */
export function UnitField({ label, value, onChange }: Props) {
  return (
    <SelectField label={label} value={value} onChange={(event) => onChange(event.target.value as Unit)}>
      {Object.entries(UNITS).map(([unit, word]) => (
        <option key={unit} value={unit}>
          {word}
        </option>
      ))}
    </SelectField>
  );
}
