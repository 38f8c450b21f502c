import { Box, Button, Grid, RadioGroup, Table, Text } from '@chakra-ui/react';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type {
  MoveEffect,
  PlanView,
  RateVersionView,
  RateView,
  SubscribersMove,
} from '../../../server/plans/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { post, put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { useLaw } from '../../api/useLaw.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';
import { TextField } from '../../parts/TextField.tsx';
import { Archive } from './PlanPage.tsx';
import { changed as changedDraft, newDraft, type DraftChange, type RateDraft } from './rate/draft.ts';
import { draftOf, untouched } from './rate/savedDraft.ts';
import { RateFields } from './rate/RateFields.tsx';
import { RateMargin } from './rate/RateMargin.tsx';
import { taxChoiceOf, taxOfChoice } from './rate/taxChoice.ts';
import { computeRate, useRate } from './rate/useRate.ts';

/** Adds a rate to a plan, or changes one: as a new version, with what becomes of those who subscribe. */
export function RatePage() {
  const { id = '', rateId } = useParams();
  const { data: plan, error } = useAnswer<PlanView>(`/api/plans/${id}`);
  const { data: setUp } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  if (error) return <PageAndMargin title="There is no such plan">{error.message}</PageAndMargin>;
  if (!plan || !setUp) return null;
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
  const acting = useAct();
  const saved = useMemo<RateDraft>(
    () =>
      rate ? draftOf(rate.name, rate.terms, taxOfChoice(rate.taxChoice)) : newDraft(homeCurrency, termDays),
    [rate, homeCurrency, termDays],
  );
  const kept = useMemo(() => (rate ? untouched(rate.terms) : {}), [rate]);
  const [draft, setDraft] = useState(saved);
  const [starts, setStarts] = useState(businessDate);
  const [subscribers, setSubscribers] = useState<SubscribersMove>({ kind: 'stay' });
  const onDraft = useCallback<DraftChange>((to) => setDraft((now) => changedDraft(now, to)), []);
  const taxChoice = taxChoiceOf(draft.tax);
  const compile = useLaw(
    taxChoice.kind === 'tax' ? taxChoice.id : taxChoice.kind === 'none' ? null : undefined,
  );
  const computed = useRate(draft, starts, compile, kept);
  const before = useRate(saved, starts, compile, kept);
  const value = { name: draft.name, terms: computed.terms, taxChoice };
  const changed = rate === null || JSON.stringify(draft) !== JSON.stringify(saved);

  const save = async () => {
    const newest = computeRate(draft, starts, compile, kept);
    if (newest.missing.length > 0) return;
    const value = { name: draft.name, terms: newest.terms, taxChoice };
    const done = await acting.act(() =>
      rate === null
        ? post(`/api/plans/${plan.id}/rates`, value)
        : put(`/api/rates/${rate.id}`, { version: rate.version, value, subscribers }),
    );
    if (done) await navigate(`/plans/${plan.id}`);
  };

  return (
    <PageAndMargin
      title={rate === null ? `${plan.name}: a new rate` : `${plan.name}: ${rate.name}`}
      margin={
        <>
          <RateMargin
            rate={computed}
            currency={draft.currency}
            starts={starts}
            today={businessDate}
            compile={compile}
            onStarts={setStarts}
            savedYear={rate === null ? null : before.firstYear}
          />
          {rate !== null && rate.subscribers > 0 && changed && (
            <Subscribers
              rate={rate}
              value={value}
              ready={computed.missing.length === 0}
              subscribers={subscribers}
              onChange={setSubscribers}
            />
          )}
          <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
            <Text mb="3">
              {computed.missing.length > 0
                ? `Still missing: ${computed.missing.join(', ')}.`
                : 'Nothing is missing.'}
            </Text>
            <Button
              colorPalette="kelp"
              loading={acting.busy}
              disabled={!changed || computed.missing.length > 0}
              onClick={() => void save()}
            >
              {rate === null ? 'Add the rate' : `Save as version ${rate.version + 1}`}
            </Button>
            <Outcome of={acting} />
          </Box>
        </>
      }
    >
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
          <Versions id={rate.id} />
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

const MOVES = {
  stay: 'stay on the version they have',
  renewal: 'move at their next renewal',
  date: 'move on a date',
} as const;

function Subscribers(props: {
  rate: RateView;
  value: object;
  ready: boolean;
  subscribers: SubscribersMove;
  onChange: (to: SubscribersMove) => void;
}) {
  const { rate, value, ready, subscribers, onChange } = props;
  const { businessDate } = useFrame();
  const [days, setDays] = useState('30');
  const [date, setDate] = useState('');
  const choose = (kind: SubscribersMove['kind'], letter = days, on = date) => {
    const letterDays = /^\d{1,3}$/.test(letter) ? Number(letter) : 0;
    onChange(
      kind === 'stay' ? { kind } : kind === 'renewal' ? { kind, letterDays } : { kind, letterDays, date: on },
    );
  };
  return (
    <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
      <MarginHeading>The {rate.subscribers} who subscribe</MarginHeading>
      <RadioGroup.Root
        aria-label="What becomes of those who subscribe"
        colorPalette="kelp"
        value={subscribers.kind}
        onValueChange={({ value: kind }) => choose(kind as SubscribersMove['kind'])}
      >
        {(Object.keys(MOVES) as (keyof typeof MOVES)[]).map((kind) => (
          <RadioGroup.Item key={kind} value={kind}>
            <RadioGroup.ItemHiddenInput />
            <RadioGroup.ItemIndicator />
            <RadioGroup.ItemText>{MOVES[kind]}</RadioGroup.ItemText>
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
      {subscribers.kind !== 'stay' && (
        <Grid gap="2" mt="2">
          {subscribers.kind === 'date' && (
            <TextField
              label="On"
              type="date"
              min={businessDate}
              value={date}
              onChange={(event) => (setDate(event.target.value), choose('date', days, event.target.value))}
            />
          )}
          <TextField
            label="With a letter so many days before"
            inputMode="numeric"
            maxLength={3}
            value={days}
            onChange={(event) => (setDays(event.target.value), choose(subscribers.kind, event.target.value))}
          />
          {ready && !(subscribers.kind === 'date' && date === '') && (
            <Effect rate={rate} value={value} subscribers={subscribers} />
          )}
        </Grid>
      )}
    </Box>
  );
}

/** Who moves, when, and how much a month it changes: asked of the server a moment after the typing stops. */
function Effect({
  rate,
  value,
  subscribers,
}: {
  rate: RateView;
  value: object;
  subscribers: SubscribersMove;
}) {
  const [effect, setEffect] = useState<MoveEffect | null>(null);
  const [says, setSays] = useState('');
  const asked = JSON.stringify({ version: rate.version, value, subscribers });
  useEffect(() => {
    let current = true;
    const timer = setTimeout(() => {
      post<MoveEffect>(`/api/rates/${rate.id}/effect`, JSON.parse(asked)).then(
        (found) => current && (setEffect(found), setSays('')),
        (error: Error) => current && (setEffect(null), setSays(error.message)),
      );
    }, 350);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [asked, rate.id]);
  if (says !== '') return <Text color="declined">{says}</Text>;
  if (!effect) return <Text color="muted">Looking …</Text>;
  const moving = effect.moved.filter(({ stays }) => stays === null);
  return (
    <Box role="status">
      {effect.sums.map(({ currency, before, after }) => (
        <Text key={currency}>
          A month: {sayAmount(BigInt(before), currency)} now, <b>{sayAmount(BigInt(after), currency)}</b>{' '}
          then.
        </Text>
      ))}
      <Text>
        {moving.length} move
        {effect.moved.length > moving.length ? `, ${effect.moved.length - moving.length} stay` : ''}:
      </Text>
      <Table.Root
        size="sm"
        aria-label="Who moves"
        css={{ '& tr, & td': { px: '1', py: '2px', bg: 'transparent' } }}
      >
        <Table.Body>
          {effect.moved.slice(0, 12).map((one) => (
            <Table.Row key={one.subscriptionId}>
              <Table.Cell>{one.customer}</Table.Cell>
              <Table.Cell>{one.stays ?? (one.effectiveOn && sayDate(one.effectiveOn))}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {effect.moved.length > 12 && <Text color="muted">and {effect.moved.length - 12} more</Text>}
    </Box>
  );
}

function Versions({ id }: { readonly id: string }) {
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
            {version.subscribers} subscribe; saved {sayInstant(version.savedAt)}
            {version.savedBy ? ` by ${version.savedBy}` : ''}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
