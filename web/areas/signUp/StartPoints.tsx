import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { minorDigits } from '../../../core/money/currency.ts';
import { PAGE_STARTS, type PageStart } from '../../../server/signUp/startMessages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { useFrame } from '../../frame/useFrame.ts';
import { AmountField } from '../../parts/AmountField.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { TextField } from '../../parts/TextField.tsx';

/** Ways to begin with nothing to sell yet: what is needed is a name and a price, the rest can be changed like any plan. */
export function StartPoints() {
  const { homeCurrency } = useFrame();
  const navigate = useNavigate();
  const acting = useAct();
  const [start, setStart] = useState<PageStart | null>(null);
  const [typed, setTyped] = useState({ name: '', amount: '', other: '' });
  const begin = async () => {
    let rates: string[] = [];
    const made = await acting.act(async () => {
      const begun = await post<{ rates: string[] }>('/api/sign-up-starts', {
        start,
        currency: homeCurrency,
        ...typed,
      });
      ({ rates } = begun);
    });
    if (made) await navigate(`/sign-up-pages/new?rates=${rates.join(',')}`);
  };
  const point = start && PAGE_STARTS[start];
  const fault = (name: string) => acting.problem?.at(`/${name}`);
  const field = (name: 'amount' | 'other', label: string) => (
    <AmountField
      label={label}
      w="190px"
      currency={homeCurrency}
      decimals={minorDigits(homeCurrency)}
      value={typed[name]}
      error={fault(name)}
      onChange={(event) => setTyped((now) => ({ ...now, [name]: event.target.value }))}
    />
  );
  return (
    <Box role="group" aria-label="Begin with something new">
      <Text color="muted" mb="2">
        Choose below what there is already, or begin with something new:
      </Text>
      <Flex gap="2" wrap="wrap">
        {(Object.keys(PAGE_STARTS) as PageStart[]).map((one) => (
          <Button
            key={one}
            size="xs"
            variant={one === start ? 'subtle' : 'outline'}
            aria-pressed={one === start}
            onClick={() => {
              const { name, suggests } = PAGE_STARTS[one];
              setStart(one);
              setTyped({ name, amount: suggests[0], other: suggests[1] });
            }}
          >
            {PAGE_STARTS[one].says}
          </Button>
        ))}
      </Flex>
      {point && (
        <Box mt="3" borderLeftWidth="3px" borderColor="kelp.fg" pl="3">
          <Flex gap="3" align="flex-start" wrap="wrap">
            <TextField
              label="What it is called"
              w="240px"
              maxLength={120}
              value={typed.name}
              error={fault('name')}
              onChange={(event) => setTyped((now) => ({ ...now, name: event.target.value }))}
            />
            {field('amount', point.amount)}
            {point.other !== '' && field('other', point.other)}
          </Flex>
          <Button mt="3" size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void begin()}>
            Make the plan, and go on
          </Button>
          <Outcome of={acting} />
        </Box>
      )}
    </Box>
  );
}
