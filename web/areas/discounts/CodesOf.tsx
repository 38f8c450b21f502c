import { Box, Button, Flex, Link as A, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { DiscountView } from '../../../server/discounts/messages.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { TextField } from '../../parts/TextField.tsx';
import { QuantityField } from '../../parts/QuantityField.tsx';

/** The codes of a discount, and two ways to more: one that many use, or many for one use each. */
export function CodesOf({ discount }: { readonly discount: DiscountView }) {
  const [code, setCode] = useState('');
  const [count, setCount] = useState('50');
  const [prefix, setPrefix] = useState('');
  const [made, setMade] = useState<readonly string[]>([]);
  const acting = useAct();
  const give = (wanted: object) =>
    acting.act(async () => {
      const { codes } = await post<{ codes: string[] }>(`/api/discounts/${discount.id}/codes`, wanted);
      setMade(codes);
      setCode('');
    }, 'Made.');
  const shown = [...discount.someCodes.map((one) => one.code), ...made].slice(0, 12);
  return (
    <>
      <MarginHeading>Codes</MarginHeading>
      {shown.length === 0 && <Text>None yet: without a code nobody can use it.</Text>}
      <Box as="ul" listStyleType="none" p="0" fontFamily="mono" fontSize="13px">
        {[...new Set(shown)].map((one) => {
          const known = discount.someCodes.find((kept) => kept.code === one);
          return (
            <li key={one}>
              {one}{' '}
              <Box as="span" color="muted">
                {known
                  ? `used ${known.used}${known.mostUses === null ? '' : ` of ${known.mostUses}`}`
                  : 'new'}
              </Box>
            </li>
          );
        })}
      </Box>
      {discount.codes + made.length > shown.length && (
        <Text color="muted">and {discount.codes + made.length - shown.length} more</Text>
      )}
      <ForWriters>
        {discount.codes + made.length > 0 && (
          <A href={`/api/discounts/${discount.id}/codes.csv`} color="kelp.fg">
            All codes as CSV
          </A>
        )}
        <Flex gap="2" mt="4" align="flex-end">
          <TextField
            label="A code that many use"
            maxLength={40}
            value={code}
            error={acting.problem?.at('/code')}
            onChange={(event) => setCode(event.target.value)}
          />
          <Button
            size="sm"
            variant="outline"
            onClick={() => void give({ kind: 'one', code, mostUses: null })}
          >
            Give it
          </Button>
        </Flex>
        <Flex gap="2" mt="3" align="flex-end">
          <QuantityField
            label="Single-use codes"
            most={99_999}
            value={count}
            error={acting.problem?.at('/count')}
            onChange={(event) => setCount(event.target.value)}
          />
          <TextField
            label="beginning with"
            maxLength={12}
            value={prefix}
            error={acting.problem?.at('/prefix')}
            onChange={(event) => setPrefix(event.target.value)}
          />
          <Button
            size="sm"
            variant="outline"
            loading={acting.busy}
            onClick={() => void give({ kind: 'many', count: Number(count) || 0, prefix })}
          >
            Make them
          </Button>
        </Flex>
      </ForWriters>
      <Outcome of={acting} />
    </>
  );
}
