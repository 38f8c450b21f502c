import { Box, Grid, RadioGroup } from '@chakra-ui/react';
import { useState } from 'react';
import type { RateView, SubscribersMove } from '../../../../server/plans/messages.ts';
import { MarginHeading } from '../../../frame/PageAndMargin.tsx';
import { useFrame } from '../../../frame/useFrame.ts';
import { SelectField } from '../../../parts/TextField.tsx';
import { DateField } from '../../../parts/DateField.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { MoveEffect } from '../MoveEffect.tsx';

const MOVES = {
  stay: 'stay on the version they have',
  renewal: 'move at their next renewal',
  date: 'move on a date',
} as const;

/** What becomes of those who subscribe to a rate that gets a new version, and what that does. */
export function Subscribers(props: {
  rate: RateView;
  value: { readonly terms: Record<string, unknown> };
  ready: boolean;
  /** Null: nobody has said yet. */
  subscribers: SubscribersMove | null;
  onChange: (to: SubscribersMove) => void;
}) {
  const { rate, value, ready, subscribers, onChange } = props;
  const rhythmChanges = ['interval', 'on'].some(
    (member) => JSON.stringify(rate.terms[member]) !== JSON.stringify(value.terms[member]),
  );
  const { businessDate } = useFrame();
  const [days, setDays] = useState('30');
  const [date, setDate] = useState('');
  const [stub, setStub] = useState<'prorate' | 'full' | 'free'>('prorate');
  const choose = (kind: SubscribersMove['kind'], letter = days, on = date, part = stub) => {
    const letterDays = /^\d{1,3}$/.test(letter) ? Number(letter) : 0;
    onChange(
      kind === 'stay'
        ? { kind }
        : kind === 'renewal'
          ? { kind, letterDays }
          : { kind, letterDays, date: on, stub: part },
    );
  };
  return (
    <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4" data-field="subscribers">
      <MarginHeading>The {rate.subscribers} who subscribe</MarginHeading>
      <RadioGroup.Root
        aria-label="What becomes of those who subscribe"
        colorPalette="kelp"
        value={subscribers?.kind ?? ''}
        onValueChange={({ value: kind }) => choose(kind as SubscribersMove['kind'])}
      >
        {(Object.keys(MOVES) as (keyof typeof MOVES)[]).map((kind) => (
          <RadioGroup.Item key={kind} value={kind}>
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator />
            <RadioGroup.ItemText>{MOVES[kind]}</RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
      {subscribers && subscribers.kind !== 'stay' && (
        <Grid gap="2" mt="2">
          {subscribers.kind === 'date' && (
            <>
              <DateField
                label="On"
                min={businessDate}
                value={date}
                onChange={(event) => (setDate(event.target.value), choose('date', days, event.target.value))}
              />
              {rhythmChanges && (
                <SelectField
                  label="The part period before the new billing day costs"
                  value={stub}
                  onChange={(event) => {
                    const part = event.target.value as typeof stub;
                    setStub(part);
                    choose('date', days, date, part);
                  }}
                >
                  <option value="prorate">its part of the price</option>
                  <option value="full">the full price</option>
                  <option value="free">nothing</option>
                </SelectField>
              )}
            </>
          )}
          <QuantityField
            label="With a letter so many days before"
            most={999}
            value={days}
            onChange={(event) => (setDays(event.target.value), choose(subscribers.kind, event.target.value))}
          />
          {ready && !(subscribers.kind === 'date' && date === '') && (
            <MoveEffect
              path={`/api/rates/${rate.id}/effect`}
              message={{ version: rate.version, value, subscribers }}
            />
          )}
        </Grid>
      )}
    </Box>
  );
}
