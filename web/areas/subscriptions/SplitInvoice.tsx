import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { toDay } from '../../../core/dates/day.ts';
import { parseDuration } from '../../../core/dates/duration.ts';
import { inParts } from '../../../core/money/inParts.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import { PART_INTERVALS, type PartInterval } from '../../../server/invoices/partIntervals.ts';
import { post } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { QuantityField } from '../../parts/QuantityField.tsx';
import { SelectField } from '../../parts/TextField.tsx';

interface Props {
  readonly id: string;
  readonly number: string;
  /** Minor units, digits only. */
  readonly owed: string;
  readonly currency: string;
  readonly onClose: () => void;
}

/** Lets what is open of an invoice be paid in parts; the parts are shown before they are agreed. */
export function SplitInvoice({ id, number, owed, currency, onClose }: Props) {
  const { businessDate } = useFrame();
  const [parts, setParts] = useState('3');
  const [every, setEvery] = useState<PartInterval>('P1M');
  const [firstOn, setFirstOn] = useState(businessDate);
  const acting = useAct();
  const count = /^\d{1,2}$/.test(parts.trim()) ? Number(parts) : 0;
  const length = parseDuration(every);
  const isGood = count >= 2 && count <= 24 && firstOn >= businessDate && BigInt(owed) >= BigInt(count);
  const dated = isGood && length ? inParts(BigInt(owed), count, toDay(firstOn), length) : [];
  const split = async () => {
    const body = { parts: count, every, firstOn };
    if (await acting.act(() => post(`/api/invoices/${id}/parts`, body))) onClose();
  };
  return (
    <Box py="2" role="group" aria-label={`Invoice ${number} in parts`}>
      <Flex gap="3" align="flex-start" wrap="wrap">
        <QuantityField
          label="Parts"
          field="parts"
          w="90px"
          least={2}
          most={24}
          value={parts}
          error={acting.problem?.at('/parts')}
          onChange={(event) => setParts(event.target.value)}
        />
        <SelectField
          label="One"
          field="every"
          w="160px"
          value={every}
          onChange={(event) => setEvery(event.target.value as PartInterval)}
        >
          {Object.entries(PART_INTERVALS).map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </SelectField>
        <DateField
          label="The first on"
          field="firstOn"
          w="190px"
          min={businessDate}
          value={firstOn}
          error={acting.problem?.at('/firstOn')}
          onChange={(event) => setFirstOn(event.target.value)}
        />
      </Flex>
      {dated.length > 0 && (
        <Text mt="2" whiteSpace="normal">
          {dated.map(({ dueOn, amount }) => `${sayAmount(amount, currency)} on ${sayDate(dueOn)}`).join(', ')}
          . Each is charged or asked for by itself; a case about it closes where nothing is due today. The
          invoice stays as it is, and the customer is written to.
        </Text>
      )}
      <Flex gap="2" mt="2">
        <Button
          size="xs"
          colorPalette="kelp"
          loading={acting.busy}
          disabled={!isGood}
          onClick={() => void split()}
        >
          Agree these parts
        </Button>
        <Button size="xs" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </Box>
  );
}
