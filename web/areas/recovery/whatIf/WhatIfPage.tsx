import { Box, Flex, Link as TextLink, Spinner, Text } from '@chakra-ui/react';
import { lazy, Suspense, useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { minorDigits } from '../../../../core/money/currency.ts';
import { EVERY_DAY, type WorkingDays } from '../../../../core/dates/workingDay.ts';
import type { LadderPolicy } from '../../../../core/recovery/ladder.ts';
import {
  STARTING_LADDERS,
  startingPolicy,
  type StartingLadderKey,
} from '../../../../core/recovery/startingLadders.ts';
import { Law } from '../../../../core/terms/law.ts';
import type { Replayed } from '../../../../core/whatIf/replay.ts';
import type { LadderRow } from '../../../../server/recovery/ladderMessages.ts';
import type { PastRecoveryView } from '../../../../server/recovery/pastRecoveryMessages.ts';
import type { EnrolmentForm } from '../../../../server/subscriptions/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../../frame/PageLoading.tsx';
import { ChartAndTable } from '../../../parts/ChartAndTable.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import { HowGood } from './HowGood.tsx';
import { Suggestion } from './Suggestion.tsx';
import { useWhatIf, type WhatIf } from './useWhatIf.ts';
import { ASSUMPTIONS, comparison, paidByDay, sayMoney } from './whatIfWords.ts';

const MoneyBars = lazy(() => import('./WhatIfCharts.tsx').then((part) => ({ default: part.MoneyBars })));
const PaidByDay = lazy(() => import('./WhatIfCharts.tsx').then((part) => ({ default: part.PaidByDay })));

/** A ladder that may be compared. */
interface Candidate {
  readonly key: string;
  readonly name: string;
  readonly policy: LadderPolicy;
}

/** So many at once: more are a thicket of lines. */
const MOST_AT_ONCE = 5;

/** Ladders compared on what the business has lived through; it changes nothing. */
export function WhatIfPage() {
  const { data: history, error } = useAnswer<PastRecoveryView>('/api/past-recovery');
  const { data: ladders } = useAnswer<LadderRow[]>('/api/ladders');
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const calendar = useMemo(() => (form ? new Law(form.law).homeWorkingDays() : null), [form]);
  const { whatIf, failed } = useWhatIf(history?.past, calendar);
  if (error) return <PageAndMargin title="Ladders compared">{error.message}</PageAndMargin>;
  if (!history || !ladders || !calendar) return <PageLoading title="Ladders compared" shape="form" />;
  if (history.past.declines.length === 0)
    return (
      <PageAndMargin title="Ladders compared">
        <Text maxW="720px">
          No payment has been declined yet, so there is nothing to compare ladders on. From the first decline
          on they are compared here, with intervals that say how little is known.
        </Text>
      </PageAndMargin>
    );
  if (failed)
    return (
      <PageAndMargin title="Ladders compared">The comparison failed. Load the page again.</PageAndMargin>
    );
  if (!whatIf) return <PageLoading title="Ladders compared" shape="form" />;
  return <Compared {...{ history, ladders, calendar, whatIf }} />;
}

function Compared(props: {
  readonly history: PastRecoveryView;
  readonly ladders: readonly LadderRow[];
  readonly calendar: WorkingDays;
  readonly whatIf: WhatIf;
}) {
  const { history, ladders, calendar, whatIf } = props;
  const { currency, elsewhere, past } = history;
  const [suggested, setSuggested] = useState<LadderPolicy | null>(null);
  const [chosen, setChosen] = useState<readonly string[]>(() => usualChoice(ladders));
  const all = useMemo(() => candidates(ladders, suggested), [ladders, suggested]);
  const shown = useMemo(
    () => chosen.flatMap((key) => all.find((one) => one.key === key) ?? []),
    [chosen, all],
  );
  const { results, busy } = useComparison(whatIf, shown, calendar);
  const { seen } = whatIf.learned;
  const total = past.declines.reduce((sum, { amount }) => sum + amount, 0);
  const table = comparison(results, currency, past.declines.length);
  const toggle = (key: string, on: boolean) =>
    setChosen((now) => (on ? [...now, key] : now.filter((other) => other !== key)));
  return (
    <PageAndMargin
      title="Ladders compared"
      marginLabel="Which ladders"
      margin={
        <>
          <MarginHeading>Which ladders</MarginHeading>
          {all.map(({ key, name }) => (
            <TickField
              key={key}
              label={name}
              checked={chosen.includes(key)}
              disabled={chosen.includes(key) ? chosen.length === 1 : chosen.length >= MOST_AT_ONCE}
              onChange={(on) => toggle(key, on)}
            />
          ))}
          <Text color="muted" fontSize="12.5px" mt="2">
            One to five. The one at the top of the chart is what the others are held against.
          </Text>
          <MarginHeading>What is taken to be so</MarginHeading>
          <Box as="ul" ps="4" fontSize="13px" listStyleType="disc">
            {ASSUMPTIONS.map((one) => (
              <Box as="li" key={one} mb="1.5">
                {one}
              </Box>
            ))}
          </Box>
        </>
      }
    >
      <Text mb="4" maxW="760px">
        {past.declines.length === 1
          ? 'The one payment that was declined'
          : `The ${past.declines.length.toLocaleString('en')} latest payments that were declined`}
        , of {sayMoney(total, currency)} {currency} together, are replayed a thousand times on each ladder, by
        how retries and letters did in the past: {seen.collected.toLocaleString('en')} of{' '}
        {seen.retries.toLocaleString('en')} retries were paid, and {seen.mended.toLocaleString('en')}{' '}
        customers mended it themselves. Nothing is changed by it.
        {elsewhere > 0 && ` ${elsewhere} in other currencies are left out.`}
        {seen.retries < 50 && ' So little is known yet that the intervals say more than the figures.'}
      </Text>
      <Suspense fallback={<Spinner size="sm" />}>
        <ChartAndTable
          title="What each ladder would have recovered"
          says="The bar lies over what came out in nine of ten replays, the mark at the middle. Retries and letters are those of all declines, for each customer who paid; days are from the failure until it was paid."
          table={table}
          open
        >
          <Box opacity={busy ? 0.5 : 1} aria-busy={busy}>
            <MoneyBars
              ladders={results}
              unit={10 ** minorDigits(currency)}
              title={`Recovered, ${currency}`}
            />
          </Box>
        </ChartAndTable>
        <ChartAndTable
          title="When it would have been paid"
          says="Of all declines, the share that is paid by then."
          table={paidByDay(results)}
        >
          <PaidByDay ladders={results} />
        </ChartAndTable>
      </Suspense>
      <Suggestion
        {...{ whatIf, calendar, currency }}
        ladders={ladders}
        onFound={(policy) => {
          setSuggested(policy);
          setChosen((now) =>
            now.includes(SUGGESTED) ? now : [...now.slice(0, MOST_AT_ONCE - 1), SUGGESTED],
          );
        }}
      />
      <HowGood learned={whatIf.learned} />
      <Flex mt="4">
        <TextLink asChild color="kelp.fg" fontWeight="600">
          <Link to="/ladders">All ladders</Link>
        </TextLink>
      </Flex>
    </PageAndMargin>
  );
}

const SUGGESTED = 'suggested';

function candidates(ladders: readonly LadderRow[], suggested: LadderPolicy | null): readonly Candidate[] {
  const own = ladders.map(({ id, name, policy }) => ({ key: id, name, policy }));
  const keys = Object.keys(STARTING_LADDERS) as StartingLadderKey[];
  const starts = keys
    .map((key) => ({ key: `start:${key}`, name: STARTING_LADDERS[key].name, policy: startingPolicy(key) }))
    .map((start) =>
      own.some(({ name }) => name === start.name)
        ? { ...start, name: `${start.name} (to start from)` }
        : start,
    );
  return [
    ...own,
    ...(suggested ? [{ key: SUGGESTED, name: 'Suggested', policy: suggested }] : []),
    ...starts,
  ];
}

/** One's own ladders, the one for everybody first, beside two that go another way. */
function usualChoice(ladders: readonly LadderRow[]): readonly string[] {
  const own = ladders.toSorted((a, b) => Number(b.isDefault) - Number(a.isDefault)).map(({ id }) => id);
  return [...own.slice(0, 3), 'start:quiet', 'start:patient'].slice(0, 4);
}

interface Result {
  readonly name: string;
  readonly of: Replayed;
}

/** What the worker makes of the ladders; while it works, what was shown stays. */
function useComparison(
  { worker }: WhatIf,
  shown: readonly Candidate[],
  calendar: WorkingDays,
): { readonly results: readonly Result[]; readonly busy: boolean } {
  const [kept, setKept] = useState<{ of: readonly Candidate[]; results: readonly Result[] }>({
    of: [],
    results: [],
  });
  useEffect(() => {
    let isOver = false;
    const climbed = shown.map(({ policy }) => ({
      ladder: policy,
      calendar: policy.manner.workingDays ? calendar : EVERY_DAY,
    }));
    void worker.compare(climbed).then((replayed) => {
      if (isOver) return;
      const results = shown.flatMap(({ name }, i) => (replayed[i] ? [{ name, of: replayed[i] }] : []));
      setKept({ of: shown, results });
    });
    return () => {
      isOver = true;
    };
  }, [worker, shown, calendar]);
  return { results: kept.results, busy: kept.of !== shown };
}
