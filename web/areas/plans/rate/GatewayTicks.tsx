import { Box, Text } from '@chakra-ui/react';
import type { GatewayAccountView } from '../../../../server/gateways/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { TickField } from '../../../parts/TickField.tsx';

interface Props {
  readonly currency: string;
  /** The ways in which the rate is paid. */
  readonly methods: readonly string[];
  readonly ticked: readonly string[];
  readonly onChange: (ticked: readonly string[]) => void;
}

/** Which gateways may keep what a rate is charged to. Asked where there is a choice: of one account nothing is shown. */
export function GatewayTicks({ currency, methods, ticked, onChange }: Props) {
  const { data } = useAnswer<GatewayAccountView[]>('/api/gateways');
  const accounts = (data ?? []).filter(
    ({ id, disconnectedOn, facts }) =>
      ticked.includes(id) ||
      (disconnectedOn === null && facts.abilities.methods.some((way) => methods.includes(way))),
  );
  if (accounts.length < 2 && ticked.length === 0) return null;
  const lacks = ({ disconnectedOn, facts }: GatewayAccountView) => {
    if (disconnectedOn !== null) return ' (disconnected)';
    return facts.abilities.currencies.includes(currency) ? '' : ` (charges no ${currency})`;
  };
  const taken = ticked.length === 0 ? accounts : accounts.filter(({ id }) => ticked.includes(id));
  return (
    <Box role="group" aria-label="What is charged is kept at">
      <Text fontWeight="500">What is charged is kept at</Text>
      {accounts.map((account) => (
        <TickField
          key={account.id}
          label={`${account.name}${lacks(account)}`}
          checked={ticked.includes(account.id)}
          onChange={(on) =>
            onChange(on ? [...ticked, account.id] : ticked.filter((one) => one !== account.id))
          }
        />
      ))}
      <Text color="muted" fontSize="13px">
        {ticked.length === 0
          ? 'None ticked: any that charges the currency.'
          : 'They are given there; one on file elsewhere is asked for anew.'}
      </Text>
      {taken.every((account) => lacks(account) !== '') && (
        <Text role="alert" color="declined" fontSize="13px">
          None of these can charge {currency} now: nobody could be enrolled so.
        </Text>
      )}
    </Box>
  );
}
