import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useMemo, useState } from 'react';
import { useLocation, useNavigate, useParams, useSearchParams } from 'react-router';
import { MOST_DAYS, MOST_RUNGS, type FinalAction, type LadderPolicy } from '../../../core/recovery/ladder.ts';
import { STARTING_LADDERS, type StartingLadderKey } from '../../../core/recovery/startingLadders.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { LadderRow, LadderVersion } from '../../../server/recovery/ladderMessages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { Fold } from '../../parts/Fold.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { QuantityField } from '../../parts/QuantityField.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { DatesOfLadder, FINALS } from './ladder/DatesOfLadder.tsx';
import { ForWhom, isForNobody, sayServes } from './ladder/ForWhom.tsx';
import {
  faultsOf,
  typedFrom,
  typedOf,
  typedSuggested,
  valueOf,
  withNewRung,
  withoutRung,
  withRung,
  type TypedLadder,
} from './ladder/ladderDraft.ts';
import { LadderLine } from './ladder/LadderLine.tsx';
import { RetryTimes } from './ladder/RetryTimes.tsx';
import { RungFields } from './ladder/RungFields.tsx';

type Read = LadderRow & { readonly versions: readonly LadderVersion[] };

const isStart = (key: string | null): key is StartingLadderKey => key !== null && key in STARTING_LADDERS;

/** Makes or changes a ladder. */
export function LadderPage() {
  const { id } = useParams();
  const [params] = useSearchParams();
  const { data, error } = useAnswer<Read>(id === undefined ? null : `/api/ladders/${id}`);
  const { state } = useLocation();
  const from = params.get('from');
  if (error) return <PageAndMargin title="There is no such ladder">{error.message}</PageAndMargin>;
  if (id !== undefined && data?.id !== id) return <PageLoading title="Ladder" shape="form" />;
  const start = isStart(from) ? from : 'steady';
  return (
    <Editor
      key={`${id}:${data?.version}:${start}`}
      ladder={data ?? null}
      start={start}
      suggested={id === undefined ? ((state as SuggestedState | null)?.suggested ?? null) : null}
    />
  );
}

/** What what-if hands over, where a ladder that it suggests is to be made. */
export interface SuggestedState {
  readonly suggested: LadderPolicy;
}

function Editor(props: {
  readonly ladder: Read | null;
  readonly start: StartingLadderKey;
  readonly suggested: LadderPolicy | null;
}) {
  const { ladder, start, suggested } = props;
  const navigate = useNavigate();
  const { role } = useFrame();
  const saved = useMemo(() => {
    if (ladder) return typedOf(ladder);
    return suggested ? typedSuggested(suggested) : typedFrom(start);
  }, [ladder, start, suggested]);
  const { draft, setDraft, kept } = useKeptDraft<TypedLadder>(
    ladder
      ? `ladder:${ladder.id}:${ladder.version}`
      : `ladder:${suggested ? JSON.stringify(suggested) : start}`,
    saved,
  );
  const [chosen, setChosen] = useState<string | null>(draft.policy.rungs[0]?.key ?? null);
  const faults = useMemo(() => faultsOf(draft), [draft]);
  const namesMissing = draft.name.trim() === '';
  const form = useDraftForm({
    message: valueOf(draft),
    missing: [
      ...(namesMissing ? [{ field: '/name', says: 'the name' }] : []),
      ...(!draft.isDefault && isForNobody(draft.serves)
        ? [{ field: '/serves', says: 'for whom it is' }]
        : []),
    ],
    faults: new Map([...faults].filter(([field]) => field !== '/name' || !namesMissing)),
    fieldOf: (pointer) => pointer.replace(/^\/value/, ''),
    send: async (value) => {
      if (ladder === null) await post('/api/ladders', { value });
      else await put(`/api/ladders/${ladder.id}`, { version: theirs?.version ?? ladder.version, value });
      kept.forget();
      await navigate('/ladders');
    },
  });
  const theirs = form.problem?.theirs;
  const [begun, setBegun] = useState(start);
  // Its rungs and times are those of another to start from; what was typed of its name, and for whom it is, stays.
  const begin = (key: StartingLadderKey) => {
    setDraft((now) => {
      const { name, policy } = typedFrom(key);
      return { ...now, policy, name: now.name === STARTING_LADDERS[begun].name ? name : now.name };
    });
    setBegun(key);
    setChosen('0');
  };
  const set = (to: Partial<TypedLadder>) => setDraft((now) => ({ ...now, ...to }));
  const setPolicy = (to: Partial<TypedLadder['policy']>) =>
    setDraft((now) => ({ ...now, policy: { ...now.policy, ...to } }));
  const { policy } = draft;
  const at = policy.rungs.findIndex(({ key }) => key === chosen);
  const rung = policy.rungs[at];
  const add = () => {
    const { typed, key } = withNewRung(draft);
    setDraft(typed);
    setChosen(key);
  };
  const isSame = ladder !== null && JSON.stringify(valueOf(draft)) === JSON.stringify(valueOf(saved));
  return (
    <PageAndMargin
      title={ladder === null ? 'Make a ladder' : `Ladder: ${ladder.name}`}
      arriveAt="heading"
      onSubmit={role === 'reader' ? undefined : form.confirm}
      margin={
        <>
          <MarginHeading>A payment that fails today</MarginHeading>
          <DatesOfLadder typed={draft} />
          {role !== 'reader' && (
            <Confirm
              of={form}
              unchanged={isSame}
              label={ladder === null ? 'Make the ladder' : `Store version ${ladder.version + 1}`}
            >
              <Text mb="3">
                {ladder === null
                  ? 'It is asked before the others whether it is for a case that opens.'
                  : sayKept(ladder.open)}
              </Text>
              {theirs && (
                <Conflict
                  mine={valueOf(draft)}
                  theirs={theirs.value as object}
                  by={theirs.changedBy}
                  onMine={() => void form.confirm()}
                  onTheirs={() => (kept.forget(), void navigate('/ladders'))}
                />
              )}
            </Confirm>
          )}
        </>
      }
    >
      <KeptNote kept={kept} />
      <Flex gap="4" align="flex-start" mb="4" wrap="wrap">
        <Box w="280px">
          <TextField
            label="Name"
            required
            maxLength={60}
            field="/name"
            value={draft.name}
            error={form.faultAt('/name')}
            onChange={(event) => set({ name: event.target.value })}
          />
        </Box>
        {ladder === null && suggested === null && (
          <Box w="320px">
            <SelectField
              label="Begun from"
              value={begun}
              onChange={(event) => begin(event.target.value as StartingLadderKey)}
            >
              {Object.entries(STARTING_LADDERS).map(([key, { name, aim }]) => (
                <option key={key} value={key}>
                  {name}: {aim.toLowerCase()}
                </option>
              ))}
            </SelectField>
          </Box>
        )}
      </Flex>
      <LadderLine
        typed={draft}
        chosen={chosen}
        onChoose={setChosen}
        onMove={(key, afterDays) => setDraft((now) => withRung(now, key, { afterDays }))}
        onEnd={(finalAfterDays) => setPolicy({ finalAfterDays })}
      />
      <Box mt="4" mb="5" minH="190px">
        {rung ? (
          <RungFields
            key={rung.key}
            {...{ rung, at }}
            faultAt={form.faultAt}
            onChange={(to) => setDraft((now) => withRung(now, rung.key, to))}
            onRemove={() => {
              setDraft(withoutRung(draft, rung.key));
              setChosen(policy.rungs[at + 1]?.key ?? policy.rungs[at - 1]?.key ?? null);
            }}
          />
        ) : (
          <EndFields policy={policy} faultAt={form.faultAt} onChange={setPolicy} />
        )}
        <Button mt="3" size="sm" variant="outline" disabled={policy.rungs.length >= MOST_RUNGS} onClick={add}>
          Add a rung
        </Button>
        {form.faultAt('/policy/rungs') !== undefined && (
          <Text color="declined">{form.faultAt('/policy/rungs')}</Text>
        )}
      </Box>
      {rung && (
        <Fold
          title="The end"
          holds={`day ${policy.finalAfterDays}: ${FINALS[policy.finalAction].toLowerCase()}`}
          open={form.faultAt('/policy/finalAction') !== undefined}
        >
          <EndFields policy={policy} faultAt={form.faultAt} onChange={setPolicy} />
        </Fold>
      )}
      <Fold
        title="For whom"
        holds={draft.isDefault ? 'everybody whom no other is for' : sayWhom(draft)}
        open={ladder === null}
      >
        <ForWhom
          serves={draft.serves}
          isDefault={draft.isDefault}
          mayUndo={ladder?.isDefault !== true}
          faultAt={form.faultAt}
          onChange={(serves) => set({ serves })}
          onDefault={(isDefault) => set({ isDefault })}
        />
      </Fold>
      <Fold title="When cards are tried" holds={sayTimes(policy.manner)}>
        <RetryTimes
          manner={policy.manner}
          faultAt={form.faultAt}
          onChange={(to) => setPolicy({ manner: { ...policy.manner, ...to } })}
        />
      </Fold>
      {ladder !== null && (
        <Fold
          title="Versions"
          holds={`${ladder.versions.length}, the newest of ${sayMade(ladder.versions[0])}`}
        >
          {ladder.versions.map((version) => (
            <Text key={version.id}>
              Version {version.version}, {sayMade(version)}
              {version.open === 0
                ? ''
                : `: ${version.open} open ${version.open === 1 ? 'case climbs' : 'cases climb'} it`}
            </Text>
          ))}
          <Text color="muted" mt="2">
            A case keeps the version that it began with. Put it on the newest from the list of cases.
          </Text>
        </Fold>
      )}
    </PageAndMargin>
  );
}

const sayWhom = ({ serves }: TypedLadder) => {
  const says = sayServes(serves, () => '');
  return serves.plans ? `${serves.plans.length} ${serves.plans.length === 1 ? 'plan' : 'plans'}` : says;
};

const sayMade = (version: LadderVersion | undefined) =>
  version?.madeOn
    ? `${sayDayMonthYear(version.madeOn)}${version.madeBy ? ` by ${version.madeBy}` : ''}`
    : 'the beginning';

const sayKept = (open: number) =>
  open === 0
    ? 'Payments that fail from now on climb it.'
    : `Payments that fail from now on climb it. The ${open === 1 ? 'case that is open keeps' : `${open} cases that are open keep`} the version they climb, until you put them on this one.`;

function sayTimes({ payDays, workingDays, fromHour }: TypedLadder['policy']['manner']): string {
  const parts = [
    payDays.length > 0 ? `around pay-day: ${payDays.join(', ')}` : '',
    workingDays ? 'on working days' : '',
    fromHour > 0 ? `from ${fromHour} o’clock` : '',
  ].filter(Boolean);
  return parts.join('; ') || 'on the days of the rungs, whatever day it is';
}

function EndFields({
  policy,
  faultAt,
  onChange,
}: {
  readonly policy: TypedLadder['policy'];
  readonly faultAt: (pointer: string) => string | undefined;
  readonly onChange: (to: Partial<TypedLadder['policy']>) => void;
}) {
  return (
    <Flex gap="4" align="flex-start" wrap="wrap">
      <Box w="120px">
        <QuantityField
          label="Ends on day"
          least={1}
          most={MOST_DAYS + 30}
          field="/policy/finalAfterDays"
          value={String(policy.finalAfterDays)}
          error={faultAt('/policy/finalAfterDays')}
          onChange={(event) => onChange({ finalAfterDays: Number(event.target.value) })}
        />
      </Box>
      <Box w="400px">
        <SelectField
          label="At the end"
          field="/policy/finalAction"
          value={policy.finalAction}
          error={faultAt('/policy/finalAction')}
          onChange={(event) => onChange({ finalAction: event.target.value as FinalAction })}
        >
          {Object.entries(FINALS).map(([action, says]) => (
            <option key={action} value={action}>
              {says}
            </option>
          ))}
        </SelectField>
      </Box>
    </Flex>
  );
}
