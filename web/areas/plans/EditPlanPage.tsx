import { Box, Flex, Grid, RadioGroup, Text } from '@chakra-ui/react';
import { useCallback, useMemo } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { PlanView } from '../../../server/plans/messages.ts';
import { put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Conflict } from '../../parts/Conflict.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { ShownText } from '../../parts/ShownText.tsx';
import { AskFields } from './plan/AskFields.tsx';
import { ExtraFields } from './plan/ExtraFields.tsx';
import { MayDoFields } from './plan/MayDoFields.tsx';
import { faultsOfPlan, planDraftOf, planValueOf, type PlanDraft } from './plan/planDraft.ts';
import { OnInvoicesFields } from './plan/OnInvoicesFields.tsx';
import { ShownFields } from './plan/ShownFields.tsx';
import { PlanFields } from './PlanFields.tsx';
import { Part } from '../../parts/Part.tsx';

/** All that a plan says beside its rates. */
export function EditPlanPage() {
  const { id = '' } = useParams();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  return plan && plan.id === id ? (
    <Editor key={plan.version} plan={plan} />
  ) : (
    <PageLoading title="The plan" shape="form" />
  );
}

function Editor({ plan }: { readonly plan: PlanView }) {
  const { homeCurrency } = useFrame();
  const navigate = useNavigate();
  const saved = useMemo(() => planDraftOf(plan), [plan]);
  const { draft, setDraft, kept } = useKeptDraft(`plan:${plan.id}:${plan.version}`, saved);
  const change = useCallback((to: Partial<PlanDraft>) => setDraft((now) => ({ ...now, ...to })), [setDraft]);
  const onExtras = useCallback(
    (by: (extras: PlanDraft['extras']) => PlanDraft['extras']) =>
      setDraft((now) => ({ ...now, extras: by(now.extras) })),
    [setDraft],
  );
  const faults = useMemo(() => faultsOfPlan(draft), [draft]);
  const changed = JSON.stringify(draft) !== JSON.stringify(saved);
  const storeAt = (version: number) => put(`/api/plans/${plan.id}`, { version, value: planValueOf(draft) });
  const form = useDraftForm({
    message: planValueOf(draft),
    missing: [],
    faults,
    fieldOf: (pointer) => pointer.replace(/^\/value/, ''),
    send: async () => {
      await storeAt(theirs?.version ?? plan.version);
      kept.forget();
      await navigate(`/plans/${plan.id}`);
    },
  });
  const { faultAt, problem } = form;
  const theirs = problem?.theirs;
  const open = plan.rates.filter(({ archivedOn }) => archivedOn === null);
  return (
    <PageAndMargin
      title={`${plan.name}: the plan`}
      onSubmit={() => changed && form.confirm()}
      margin={
        <>
          <MarginHeading>As customers see it</MarginHeading>
          <AsSeen draft={draft} />
          <Confirm of={form} label="Store the plan" unchanged={!changed}>
            {theirs && (
              <Conflict
                mine={planValueOf(draft)}
                theirs={theirs.value as object}
                by={theirs.changedBy}
                onMine={() => void form.confirm()}
                onTheirs={() => (kept.forget(), void navigate(`/plans/${plan.id}`))}
              />
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept} />
      <Grid gap="5" maxW="760px">
        <PlanFields facts={draft} faultAt={(name) => faultAt(`/${name}`)} onChange={change} />
        {open.length > 1 && (
          <Part title="Offered first">
            <RadioGroup.Root
              aria-label="Offered first"
              colorPalette="kelp"
              value={draft.firstRate || (open[0]?.id ?? '')}
              onValueChange={({ value }) => change({ firstRate: value ?? '' })}
            >
              <Flex gap="5" wrap="wrap">
                {open.map((rate) => (
                  <RadioGroup.Item key={rate.id} value={rate.id}>
                    <RadioGroup.ItemHiddenInput />
                    <RadioGroup.ItemIndicator />
                    <RadioGroup.ItemText>{rate.name}</RadioGroup.ItemText>
                  </RadioGroup.Item>
                ))}
              </Flex>
            </RadioGroup.Root>
          </Part>
        )}
        <ShownFields
          picture={draft.picture}
          documents={draft.documents}
          faultAt={faultAt}
          onChange={change}
        />
        <ExtraFields
          extras={draft.extras}
          currency={String(open[0]?.terms.currency ?? homeCurrency)}
          faultAt={faultAt}
          onChange={onExtras}
        />
        <AskFields asks={draft.asks} faultAt={faultAt} onChange={(asks) => change({ asks })} />
        <MayDoFields
          mayDo={draft.mayDo}
          faultAt={faultAt}
          onChange={(to) => change({ mayDo: { ...draft.mayDo, ...to } })}
        />
        <OnInvoicesFields
          says={draft.onInvoices}
          faultAt={faultAt}
          onChange={(to) => change({ onInvoices: { ...draft.onInvoices, ...to } })}
        />
      </Grid>
    </PageAndMargin>
  );
}

function AsSeen({ draft }: { readonly draft: PlanDraft }) {
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" p="3">
      {draft.picture && (
        <img src={draft.picture.at} alt="" style={{ maxWidth: '100%', borderRadius: 4, marginBottom: 8 }} />
      )}
      <Text fontFamily="heading" fontSize="16px">
        {draft.outerName || draft.name}
      </Text>
      <ShownText html={draft.description} />
      {draft.extras.map(({ key, name, how }) => (
        <Text key={key} fontSize="13px">
          {how === 'offered' ? '☐' : '☑'} {name || '…'}
          {how === 'required' ? ' (always)' : ''}
        </Text>
      ))}
      {draft.documents.map(({ upload, name }) => (
        <Text key={upload} fontSize="13px" color="muted">
          To read: {name}
        </Text>
      ))}
    </Box>
  );
}
