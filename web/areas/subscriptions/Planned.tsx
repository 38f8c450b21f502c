import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { AlterationEffect, PlannedChange } from '../../../server/subscriptions/alterMessages.ts';
import { remove } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { TakenBack } from '../../parts/alter/Settled.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

const BY = { customer: 'by the customer', business: 'by us', rate: 'by a change of the rate' } as const;

/** What was agreed to and has not begun, with what each will do and a way to take it back. */
export function Planned({ id }: { readonly id: string }) {
  const { data: planned } = useAnswer<PlannedChange[]>(`/api/subscriptions/${id}/planned`);
  const acting = useAct();
  const [asked, setAsked] = useState<string | null>(null);
  const path = `/api/subscriptions/${id}/planned/${asked}`;
  const { data: effect, error } = useAnswer<AlterationEffect>(asked === null ? null : path);
  if (!planned || (planned.length === 0 && acting.done === '')) return null;
  const takeBack = async () => {
    if (await acting.act(() => remove(path), 'Taken back. The customer was written to.')) setAsked(null);
  };
  return (
    <Box mt="5" role="group" aria-label="Planned changes">
      <MarginHeading>Planned changes</MarginHeading>
      <Box as="ul" listStyleType="none">
        {planned.map((one) => (
          <Box as="li" key={one.id} borderTopWidth="1px" borderColor="lines" py="1.5">
            <Text>{one.says.charAt(0).toUpperCase() + one.says.slice(1)}</Text>
            <Flex gap="2" align="baseline" color="muted" fontSize="13px">
              <Text flex="1">
                from {sayDate(one.effectiveOn)}, asked {BY[one.madeBy]}
                {one.madeOn === '' ? '' : ` on ${sayDayMonthYear(one.madeOn)}`}
                {one.stays !== null && `. ${one.stays}`}
              </Text>
              {one.stays === null && asked !== one.id && (
                <ForWriters>
                  <Button
                    size="2xs"
                    variant="outline"
                    aria-label={`Take back: ${one.says}`}
                    onClick={() => setAsked(one.id)}
                  >
                    Take back
                  </Button>
                </ForWriters>
              )}
            </Flex>
            {asked === one.id && (
              <Box mt="1" role="group" aria-label="What taking it back does">
                {error && <Text color="declined">{error.message}</Text>}
                {effect && (
                  <Text fontSize="13px">
                    The next payments would be {sayComing(effect)}
                    {effect.endsOn ? `; it ends on ${sayDate(effect.endsOn)}` : ''}.
                  </Text>
                )}
                {effect && <TakenBack effect={effect} />}
                <Flex gap="2" mt="1">
                  <Button
                    size="2xs"
                    colorPalette="kelp"
                    disabled={!effect}
                    loading={acting.busy}
                    onClick={() => void takeBack()}
                  >
                    Take it back
                  </Button>
                  <Button size="2xs" variant="outline" onClick={() => setAsked(null)}>
                    Leave it
                  </Button>
                </Flex>
              </Box>
            )}
          </Box>
        ))}
      </Box>
      <Outcome of={acting} />
    </Box>
  );
}

function sayComing({ after, currency }: AlterationEffect): string {
  const shown = after
    .slice(0, 3)
    .map(({ dueOn, due }) => `${sayAmount(BigInt(due), currency)} on ${sayDate(dueOn)}`);
  return shown.join(', ') || 'none';
}
