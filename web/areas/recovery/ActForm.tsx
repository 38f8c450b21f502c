import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { useSWRConfig } from 'swr';
import { formatDay, toDay } from '../../../core/dates/day.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import type { LadderRow } from '../../../server/recovery/ladderMessages.ts';
import type { CaseAct, CaseEffect } from '../../../server/recovery/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { sayCount } from '../../parts/sayCount.ts';
import { SelectField, AreaField } from '../../parts/TextField.tsx';

export type ActKind = CaseAct['do'];

const LABELS: Readonly<Record<ActKind, string>> = {
  try: 'Try now',
  'set aside': 'Set aside',
  assign: 'Give to a person',
  'give up': 'Give up',
  'climb by': 'Put on the ladder',
  write: 'Send the letter',
};

/**
 * Something that is to be done with one case or with several: what it asks for, what it would do to each, and only then the
 * button. Done, it says what became of each.
 */
export function ActForm({
  kind,
  ids,
  onClose,
}: {
  readonly kind: ActKind;
  readonly ids: readonly string[];
  readonly onClose: () => void;
}) {
  const { businessDate } = useFrame();
  const { mutate } = useSWRConfig();
  const [until, setUntil] = useState(formatDay(toDay(businessDate) + 7));
  const [choice, setChoice] = useState('');
  const [says, setSays] = useState('');
  const [effects, setEffects] = useState<{ for: string; of: readonly CaseEffect[] } | null>(null);
  const [done, setDone] = useState<readonly CaseEffect[] | null>(null);
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState('');
  const act = actOf(kind, { until, choice, says });
  const asked = act === null ? '' : JSON.stringify({ ids, act });
  useEffect(() => {
    if (asked === '' || done !== null) return;
    let isOld = false;
    const timer = setTimeout(() => {
      post<CaseEffect[]>('/api/cases/acts/effect', JSON.parse(asked) as object)
        .then((of) => !isOld && (setEffects({ for: asked, of }), setWrong('')))
        .catch((error: unknown) => !isOld && setWrong(sayProblem(error)));
    }, 250);
    return () => {
      isOld = true;
      clearTimeout(timer);
    };
  }, [asked, done]);
  const shown = effects?.for === asked ? effects.of : null;
  const able = shown?.filter(({ refused }) => refused === null) ?? [];
  const confirm = async () => {
    setBusy(true);
    try {
      setDone(await post<CaseEffect[]>('/api/cases/acts', { ids: able.map(({ id }) => id), act }));
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
    } catch (error) {
      setWrong(sayProblem(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box mt="3" role="group" aria-label={LABELS[kind]}>
      {done === null && (
        <Fields {...{ kind, until, choice, says, setUntil, setChoice, setSays }} min={businessDate} />
      )}
      {done === null && shown && <Effects of={shown} />}
      {done !== null && <Effects of={done} isDone />}
      {wrong !== '' && (
        <Text role="alert" color="declined" mt="2">
          {wrong}
        </Text>
      )}
      <Flex gap="2" mt="3">
        {done === null && (
          <Button
            size="xs"
            colorPalette="kelp"
            loading={busy}
            disabled={able.length === 0}
            onClick={() => void confirm()}
          >
            {LABELS[kind]}
            {ids.length > 1 ? ` (${sayCount(able.length)})` : ''}
          </Button>
        )}
        <Button size="xs" variant="outline" bg="page" onClick={onClose}>
          {done === null ? 'Leave it' : 'Close'}
        </Button>
      </Flex>
    </Box>
  );
}

const sayProblem = (error: unknown) => (error instanceof Problem ? error.message : 'That did not work.');

/** What is sent; null while something of it is missing. */
function actOf(
  kind: ActKind,
  { until, choice, says }: { until: string; choice: string; says: string },
): CaseAct | null {
  switch (kind) {
    case 'set aside':
      return until === '' ? null : { do: kind, until: until === GOES_ON ? null : until };
    case 'assign':
      return choice === '' ? null : { do: kind, to: choice === NOBODY ? null : choice };
    case 'climb by':
      return choice === '' ? null : { do: kind, ladder: choice };
    case 'write':
      return says.trim() === '' ? null : { do: kind, says };
    case 'try':
    case 'give up':
      return { do: kind };
  }
}

const NOBODY = 'nobody';
const GOES_ON = 'goes on';

function Fields(props: {
  readonly kind: ActKind;
  readonly until: string;
  readonly choice: string;
  readonly says: string;
  readonly min: string;
  readonly setUntil: (to: string) => void;
  readonly setChoice: (to: string) => void;
  readonly setSays: (to: string) => void;
}) {
  const { kind, until, choice, says, min, setUntil, setChoice, setSays } = props;
  const { data: people } = useAnswer<{ id: string; name: string }[]>(
    kind === 'assign' ? '/api/staff-names' : null,
  );
  const { data: ladders } = useAnswer<LadderRow[]>(kind === 'climb by' ? '/api/ladders' : null);
  switch (kind) {
    case 'set aside':
      return (
        <>
          {until !== GOES_ON && (
            <DateField
              label="Until"
              value={until}
              min={formatDay(toDay(min) + 1)}
              onChange={(event) => setUntil(event.target.value)}
            />
          )}
          <Button
            size="xs"
            variant="plain"
            px="0"
            color="kelp.fg"
            onClick={() => setUntil(until === GOES_ON ? '' : GOES_ON)}
          >
            {until === GOES_ON ? 'Choose a day' : 'Let what is set aside go on'}
          </Button>
        </>
      );
    case 'assign':
      return (
        <SelectField label="To whom" value={choice} onChange={(event) => setChoice(event.target.value)}>
          <option value="">Choose a person</option>
          {people?.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          <option value={NOBODY}>Nobody</option>
        </SelectField>
      );
    case 'climb by':
      return (
        <SelectField label="Which ladder" value={choice} onChange={(event) => setChoice(event.target.value)}>
          <option value="">Choose a ladder</option>
          {ladders?.map(({ id, name, version }) => (
            <option key={id} value={id}>
              {name}, version {version}
            </option>
          ))}
        </SelectField>
      );
    case 'write':
      return (
        <AreaField
          label="The letter"
          hint="It carries the link to pay or to change the card."
          maxLength={4000}
          rows={5}
          value={says}
          onChange={(event) => setSays(event.target.value)}
        />
      );
    case 'try':
    case 'give up':
      return null;
  }
}

/** What an act would do to each, money first; those that it cannot be done to, with the reason. */
function Effects({ of, isDone = false }: { readonly of: readonly CaseEffect[]; readonly isDone?: boolean }) {
  const able = of.filter(({ refused }) => refused === null);
  const left = of.filter(({ refused }) => refused !== null);
  const sums = new Map<string, bigint>();
  for (const { currency, owed } of able) sums.set(currency, (sums.get(currency) ?? 0n) + BigInt(owed));
  return (
    <Box mt="2" aria-live="polite">
      {of.length > 1 && (
        <Text fontWeight="500">
          {sayCount(able.length)} of {sayCount(of.length)}
          {able.length === 0
            ? ''
            : `, with ${[...sums].map(([code, sum]) => sayAmount(sum, code)).join(', ')} open`}
          {isDone ? ': done' : ''}
        </Text>
      )}
      <Box
        as="ul"
        listStyleType="none"
        p="0"
        maxH="180px"
        overflowY="auto"
        tabIndex={0}
        aria-label="What it does"
      >
        {able.map(({ id, customer, says }) => (
          <Box as="li" key={id} py="0.5">
            {of.length > 1 ? `${customer}: ` : ''}
            {says}
          </Box>
        ))}
        {left.map(({ id, customer, refused }) => (
          <Box as="li" key={id} py="0.5" color={of.length > 1 ? 'muted' : 'declined'}>
            {of.length > 1 ? `Left out: ${customer}. ` : ''}
            {refused}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
