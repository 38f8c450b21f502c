import { RadioGroup, Text } from '@chakra-ui/react';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { AlterationEffect, WayView } from '../../../server/subscriptions/alterMessages.ts';

type Given = 'free' | 'prorate';

interface Props {
  readonly kind: 'date' | 'pause until';
  readonly given: Given;
  readonly effect: AlterationEffect | null;
  readonly onGiven: (given: Given) => void;
}

/** What becomes of the days that a moved date gives or takes, or that a pause leaves: either way with its amount. */
export function Ways({ kind, given, effect, onGiven }: Props) {
  const ways = effect?.ways ?? null;
  if (effect !== null && ways === null)
    return (
      <Text color="muted">
        {kind === 'date'
          ? 'No days are given or taken by it.'
          : 'It goes on where a period begins: nothing is left of one.'}
      </Text>
    );
  const says: Readonly<Record<Given, string>> = {
    free: kind === 'date' ? 'free' : 'free until the period ends',
    prorate: kind === 'date' ? 'pay the difference' : 'charged by the day until the period ends',
  };
  return (
    <RadioGroup.Root
      aria-label={kind === 'date' ? 'The days it gives or takes' : 'What is left of the period'}
      colorPalette="kelp"
      value={given}
      onValueChange={({ value }) => onGiven(value === 'free' ? 'free' : 'prorate')}
    >
      {(['prorate', 'free'] as const).map((way) => (
        <RadioGroup.Item key={way} value={way} alignItems="flex-start">
          <RadioGroup.ItemHiddenInput />
          <RadioGroup.ItemIndicator mt="3px" />
          <RadioGroup.ItemText>
            {says[way]}
            {effect && ways && `: ${sayWay(ways[way], effect.currency)}`}
          </RadioGroup.ItemText>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

/** '£6.00 on 25 March, for 20 April to 5 May', '£4.00 comes back on 25 March, …', or that nothing is charged. */
function sayWay({ amount, on, from, to }: WayView, currency: string): string {
  if (amount === null || on === null) return 'nothing is charged or given back';
  const sum = BigInt(amount);
  const money = sum < 0n ? `${sayAmount(-sum, currency)} comes back` : sayAmount(sum, currency);
  const days = from === null || to === null ? '' : `, for ${sayDate(from)} to ${sayDate(to)}`;
  return `${money} on ${sayDate(on)}${days}`;
}
