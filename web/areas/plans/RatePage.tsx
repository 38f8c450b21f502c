import { Box, Grid, Link as TextLink, Text } from '@chakra-ui/react';
import { useCallback, useMemo, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { parseDay } from '../../../core/dates/day.ts';
import { compareRates, type OfferedRate } from '../../../core/offer/compareRates.ts';
import type { PlanView, RateVersionView, RateView, SubscribersMove } from '../../../server/plans/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useLaw } from '../../api/useLaw.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Confirm } from '../../parts/Confirm.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { sayInstant } from '../../parts/sayInstant.ts';
import { Archive } from '../../parts/Archive.tsx';
import { changed as changedDraft, newDraft, type DraftChange, type RateDraft } from './rate/draft.ts';
import { issueDaysOf, optionsDraftOf, optionsOf } from './rate/optionsDraft.ts';
import { draftOf, untouched } from './rate/savedDraft.ts';
import { AgainstOthers } from './plan/AgainstOthers.tsx';
import { RateFields } from './rate/RateFields.tsx';
import { RateMargin } from './rate/RateMargin.tsx';
import { Subscribers } from './rate/Subscribers.tsx';
import { useTaxOfDraft } from './rate/taxOfDraft.ts';
import { taxChoiceOf, taxOfChoice } from './rate/taxChoice.ts';
import { computeRate, useRate } from './rate/useRate.ts';

/** Adds a rate to a plan, or changes one: as a new version, with what becomes of those who subscribe. */
export function RatePage() {
  const { id = '', rateId } = useParams();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  const { data: setUp } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  if (!plan || !setUp) return <PageLoading title="Rate" shape="form" />;
  const rate = plan.rates.find((one) => one.id === rateId);
  if (rateId !== undefined && !rate)
    return <PageAndMargin title="There is no such rate">It is not of this plan.</PageAndMargin>;
  return (
    <Editor
      key={`${rateId}:${rate?.version}`}
      plan={plan}
      rate={rate ?? null}
      termDays={setUp.paymentTermDays}
    />
  );
}

function Editor(props: { plan: PlanView; rate: RateView | null; termDays: number }) {
  const { plan, rate, termDays } = props;
  const { businessDate, homeCurrency } = useFrame();
  const navigate = useNavigate();
  const saved = useMemo<RateDraft>(
    () =>
      rate
        ? draftOf(rate.name, rate.terms, taxOfChoice(rate.taxChoice), optionsDraftOf(rate.options))
        : newDraft(homeCurrency, termDays),
    [rate, homeCurrency, termDays],
  );
  const untouchedTerms = useMemo(() => (rate ? untouched(rate.terms) : {}), [rate]);
  const name = rate ? `rate:${rate.id}:${rate.version}` : `rate-of:${plan.id}`;
  const { draft, setDraft, kept } = useKeptDraft(name, saved);
  const [starts, setStarts] = useState(businessDate);
  const [subscribers, setSubscribers] = useState<SubscribersMove | null>(null);
  const onDraft = useCallback<DraftChange>((to) => setDraft((now) => changedDraft(now, to)), [setDraft]);
  const tax = useTaxOfDraft(draft);
  const taxChoice = taxChoiceOf(draft.tax);
  const compile = useLaw(
    taxChoice.kind === 'tax' ? taxChoice.id : taxChoice.kind === 'none' ? null : undefined,
  );
  const computed = useRate(draft, starts, compile, untouchedTerms);
  const before = useRate(saved, starts, compile, untouchedTerms);
  const compared = useMemo(() => {
    if (computed.faults.length > 0) return null;
    const others = plan.rates.filter(({ id, archivedOn }) => archivedOn === null && id !== rate?.id);
    const typed = { id: 'draft', name: '', terms: computed.terms };
    const offered = [typed, ...others] as unknown as OfferedRate[];
    return compareRates(offered, businessDate).get('draft') ?? null;
  }, [computed, plan, rate, businessDate]);
  const value = { name: draft.name, terms: computed.terms, taxChoice, options: optionsOf(draft.options) };
  const changed = rate === null || JSON.stringify(draft) !== JSON.stringify(saved);

  const asksWhoMoves = rate !== null && rate.subscribers > 0 && changed;
  const form = useDraftForm({
    message: rate === null ? value : { version: rate.version, value, subscribers },
    missing: [
      ...computed.missing,
      ...(asksWhoMoves && subscribers === null
        ? [{ field: 'subscribers', says: 'what becomes of those who subscribe' }]
        : []),
      ...(subscribers?.kind === 'date' && parseDay(subscribers.date) === null
        ? [{ field: 'subscribers', says: 'the day they move on' }]
        : []),
    ],
    fieldOf: (pointer) => pointer.replace(/^\/value(\/terms)?/, ''),
    send: async () => {
      // What is computed may lag a moment behind the newest key.
      const newest = computeRate(draft, starts, compile, untouchedTerms);
      if (newest.missing.length > 0) return;
      const typed = { ...value, terms: newest.terms };
      if (rate === null) await post(`/api/plans/${plan.id}/rates`, typed);
      else
        await put(`/api/rates/${rate.id}`, {
          version: rate.version,
          value: typed,
          subscribers: subscribers ?? { kind: 'stay' },
        });
      kept.forget();
      await navigate(`/plans/${plan.id}`);
    },
  });
  const theirs = form.problem?.theirs;

  return (
    <PageAndMargin
      title={rate === null ? `${plan.name}: a new rate` : `${plan.name}: ${rate.name}`}
      onSubmit={() => changed && form.confirm()}
      margin={
        <>
          <RateMargin
            rate={computed}
            tax={tax}
            isWhole={draft.options.invoicing === 'whole' && draft.ends === 'after'}
            issueBefore={issueDaysOf(draft.options)}
            currency={draft.currency}
            starts={starts}
            today={businessDate}
            compile={compile}
            onStarts={setStarts}
            savedYear={rate === null ? null : before.firstYear}
          />
          {compared && <AgainstOthers compared={compared} />}
          {asksWhoMoves && (
            <Subscribers
              rate={rate}
              value={value}
              ready={computed.missing.length === 0}
              subscribers={subscribers}
              onChange={setSubscribers}
            />
          )}
          <Confirm
            of={form}
            label={rate === null ? 'Add the rate' : `Save as version ${rate.version + 1}`}
            unchanged={!changed}
          >
            {theirs && (
              <Text role="alert" color="declined" mb="3">
                {theirs.changedBy} has saved this rate meanwhile. What you typed is kept; open the rate again
                to go on from theirs.
              </Text>
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept} />
      <Grid maxW="760px">
        <RateFields
          compile={compile}
          draft={draft}
          starts={starts}
          faultAt={computed.faultAt}
          onChange={onDraft}
        />
      </Grid>
      {rate !== null && (
        <Box maxW="760px">
          <Versions id={rate.id} planId={plan.id} />
          <Archive
            what="rate"
            id={rate.id}
            name={rate.name}
            archived={rate.archivedOn !== null}
            subscribers={rate.subscribers}
          />
        </Box>
      )}
    </PageAndMargin>
  );
}

function Versions({ id, planId }: { readonly id: string; readonly planId: string }) {
  const { data } = useAnswer<RateVersionView[]>(`/api/rates/${id}/versions`);
  if (!data || data.length < 2) return null;
  return (
    <Box mt="6">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="1">
        Versions
      </Text>
      {data.map((version) => (
        <Box key={version.version} borderTopWidth="1px" borderColor="lines" py="1">
          <b>{version.version}</b> {version.says}
          <Box as="span" color="muted">
            {' '}
            <TextLink asChild color="kelp.fg">
              <Link to={`/plans/${planId}/rates/${id}/subscribers?state=version ${version.version}`}>
                {version.subscribers} subscribe
              </Link>
            </TextLink>
            {version.coming > 0 ? `, ${version.coming} are to move to it` : ''}; saved{' '}
            {sayInstant(version.savedAt)}
            {version.savedBy ? ` by ${version.savedBy}` : ''}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
