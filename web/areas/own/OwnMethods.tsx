import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { WithdrawalEffect } from '../../../server/customers/methodMessages.ts';
import type { OwnMethod, OwnPage } from '../../../server/customers/ownMessages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { sayWithExpiry } from '../../parts/sayWithExpiry.ts';
import { Outcome } from '../../parts/Outcome.tsx';

interface Props {
  readonly own: OwnPage;
  readonly path: string;
  readonly onDone: () => void;
}

/** The cards that are charged, in their turn, and how the customer withdraws what they agreed to. */
export function OwnMethods({ own, path, onDone }: Props) {
  const [effect, setEffect] = useState<{ of: OwnMethod; does: WithdrawalEffect } | null>(null);
  const acting = useAct();
  const ask = (of: OwnMethod) =>
    acting.act(async () =>
      setEffect({ of, does: await post<WithdrawalEffect>(`${path}/withdrawal/effect`, { methodId: of.id }) }),
    );
  const withdraw = async (of: OwnMethod) => {
    const says = 'It is withdrawn: nothing is charged to it any more. We have written to you.';
    if (!(await acting.act(() => post(`${path}/withdrawal`, { methodId: of.id }), says))) return;
    setEffect(null);
    onDone();
  };
  if (own.methods.length === 0) return <Outcome of={acting} />;
  return (
    <Box mb="3">
      {own.methods.map((one, i) => (
        <Flex key={one.id} gap="3" py="1" align="center">
          <Box flex="1">
            {own.methods.length > 1 && (
              <>
                {i === 0 ? 'First: ' : 'Then: '}
                {sayWithExpiry(one)}
              </>
            )}
          </Box>
          <Button
            size="xs"
            variant="outline"
            data-second
            disabled={own.readOnly}
            loading={acting.busy}
            onClick={() => void ask(one)}
          >
            Do not charge{' '}
            {own.methods.length > 1 ? 'it' : one.expires === null ? 'this account' : 'this card'} any more
          </Button>
        </Flex>
      ))}
      {effect && (
        <Box borderLeftWidth="2px" borderColor="declined" ps="3" my="2">
          <Text>You withdraw your authority to charge {effect.does.card}.</Text>
          {effect.does.goesOn.map(({ plan, with: other }, i) => (
            <Text key={i}>
              {plan} is charged to {other} from then on.
            </Text>
          ))}
          {effect.does.left.length > 0 && (
            <Text>
              Nothing is left to charge for {effect.does.left.join(', ')}: what is due is asked for by mail,
              and it stops where it is not paid.
            </Text>
          )}
          {effect.does.underWay > 0 && <Text>A payment that is under way is not taken back.</Text>}
          <Flex gap="2" mt="2" wrap="wrap">
            <Button size="sm" data-main loading={acting.busy} onClick={() => void withdraw(effect.of)}>
              Withdraw it
            </Button>
            <Button size="sm" variant="outline" data-second onClick={() => setEffect(null)}>
              Keep it
            </Button>
          </Flex>
        </Box>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
