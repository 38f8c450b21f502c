import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { WithdrawalEffect } from '../../../server/customers/methodMessages.ts';
import type { OwnMethod, OwnPage } from '../../../server/customers/ownMessages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { useOwnSaying } from './ownSaying.ts';

interface Props {
  readonly own: OwnPage;
  readonly path: string;
  readonly onDone: () => void;
}

/** The cards that are charged, in their turn, and how the customer withdraws what they agreed to. */
export function OwnMethods({ own, path, onDone }: Props) {
  const [effect, setEffect] = useState<{ of: OwnMethod; does: WithdrawalEffect } | null>(null);
  const { words: all, withExpiry } = useOwnSaying();
  const { methods: words } = all;
  const acting = useAct();
  const ask = (of: OwnMethod) =>
    acting.act(async () =>
      setEffect({ of, does: await post<WithdrawalEffect>(`${path}/withdrawal/effect`, { methodId: of.id }) }),
    );
  const withdraw = async (of: OwnMethod) => {
    if (!(await acting.act(() => post(`${path}/withdrawal`, { methodId: of.id }), words.done))) return;
    setEffect(null);
    onDone();
  };
  if (own.methods.length === 0) return <Outcome of={acting} />;
  return (
    <Box mb="3">
      {own.methods.map((one, i) => (
        <Flex key={one.id} gap="3" py="1" align="center">
          <Box flex="1">
            {own.methods.length > 1 && <>{(i === 0 ? words.first : words.then)(withExpiry(one))}</>}
          </Box>
          <Button
            size="xs"
            variant="outline"
            data-second
            disabled={own.readOnly}
            loading={acting.busy}
            onClick={() => void ask(one)}
          >
            {words.stop(own.methods.length > 1 ? 'it' : one.expires === null ? 'this account' : 'this card')}
          </Button>
        </Flex>
      ))}
      {effect && (
        <Box borderLeftWidth="2px" borderColor="declined" ps="3" my="2">
          <Text>{words.withdraws(effect.does.card)}</Text>
          {effect.does.goesOn.map(({ plan, with: other }, i) => (
            <Text key={i}>{words.goesOn(plan, other)}</Text>
          ))}
          {effect.does.left.length > 0 && <Text>{words.nothingLeft(effect.does.left.join(', '))}</Text>}
          {effect.does.underWay > 0 && <Text>{words.underWay}</Text>}
          <Flex gap="2" mt="2" wrap="wrap">
            <Button size="sm" data-main loading={acting.busy} onClick={() => void withdraw(effect.of)}>
              {words.withdraw}
            </Button>
            <Button size="sm" variant="outline" data-second onClick={() => setEffect(null)}>
              {words.keep}
            </Button>
          </Flex>
        </Box>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
