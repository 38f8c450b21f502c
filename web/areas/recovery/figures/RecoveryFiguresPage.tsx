import { Box, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { lazy, Suspense, useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { minorDigits } from '../../../../core/money/currency.ts';
import {
  byDays,
  monthsUntil,
  sumOf,
  sumsBy,
  type CaseFacts,
  type CaseSum,
} from '../../../../core/recovery/figures.ts';
import { sayAmount, sayFigure } from '../../../../core/words/amount.ts';
import { FIGURE_MONTHS, type RecoveryFigures } from '../../../../server/recovery/figuresMessages.ts';
import { useAnswer } from '../../../api/hooks.ts';
import { PageAndMargin } from '../../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../../frame/PageLoading.tsx';
import { ChartAndTable } from '../../../parts/ChartAndTable.tsx';
import { Choice } from '../../../parts/list/Choice.tsx';
import { typedOf } from '../../../parts/minorOf.ts';
import { lostTable, sayDays, sayMonth, sayRate, sumTable } from './figureTables.ts';

const StackedBars = lazy(() => import('./FigureCharts.tsx').then((part) => ({ default: part.StackedBars })));

/** What recovery brings: money and rates by month, reason, ladder and rung, what is at risk, what was lost, and how long it takes. */
export function RecoveryFiguresPage() {
  const [params, setParams] = useSearchParams();
  const months = FIGURE_MONTHS.find((count) => String(count) === params.get('months')) ?? 12;
  const { data, error } = useAnswer<RecoveryFigures>(`/api/recovery-figures?months=${months}`);
  const set = (name: string, value: string) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set(name, value);
        return next;
      },
      { replace: true },
    );
  if (error) return <PageAndMargin title="What recovery brings">{error.message}</PageAndMargin>;
  if (!data) return <PageLoading title="What recovery brings" shape="form" />;
  const shown =
    data.currencies.find(({ currency }) => currency === params.get('currency')) ?? data.currencies[0];
  return (
    <PageAndMargin title="What recovery brings">
      <Flex gap="3" mb="4" wrap="wrap">
        <Choice
          label="Months"
          value={String(months)}
          choices={FIGURE_MONTHS.map((count) => [String(count), `Last ${count} months`] as const)}
          onChange={(value) => set('months', value)}
        />
        {data.currencies.length > 1 && (
          <Choice
            label="Currency"
            value={shown?.currency ?? ''}
            choices={data.currencies.map(({ currency }) => [currency, currency] as const)}
            onChange={(value) => set('currency', value)}
          />
        )}
      </Flex>
      {shown ? (
        <Shown figures={data} currency={shown.currency} facts={shown.facts} />
      ) : (
        <Text>No payment has failed in these months, nor in as many before them.</Text>
      )}
    </PageAndMargin>
  );
}

function Shown(props: {
  readonly figures: RecoveryFigures;
  readonly currency: string;
  readonly facts: readonly CaseFacts[];
}) {
  const { figures, currency, facts } = props;
  const months = useMemo(() => monthsUntil(figures.month, figures.months), [figures]);
  const now = facts.filter(({ month }) => months.includes(month));
  const before = facts.filter(({ month }) => !months.includes(month));
  const unit = 10 ** minorDigits(currency);
  const byMonth = months.map(
    (month) => [sayMonth(month), sumOf(now.filter((one) => one.month === month))] as const,
  );
  const most = (sums: readonly (readonly [string, CaseSum])[]) =>
    sums.toSorted(([, a], [, b]) => b.failed - a.failed);
  const byReason = most(sumsBy(now, ({ reason }) => reason));
  const byLadder = most(sumsBy(now, ({ ladder }) => ladder));
  const byRung = sumsBy(
    now.filter(({ isRecovered }) => isRecovered).toSorted((a, b) => a.rungs - b.rungs),
    ({ rungs }) => (rungs === 0 ? 'Before the first rung' : `After rung ${rungs}`),
  );
  const days = byDays(now);
  const lost = lostTable(now, currency);
  const bars = (sums: readonly (readonly [string, CaseSum])[]) => [
    part('Recovered', 'kelp-solid', sums, ({ recovered }) => recovered / unit),
    part('At risk', 'planned', sums, ({ atRisk }) => atRisk / unit),
    part('Lost', 'declined', sums, ({ lost: gone }) => gone / unit),
  ];
  const title = (what: string) => ({ unit: currency, says: what });
  return (
    <Suspense fallback={null}>
      <Against now={sumOf(now)} before={sumOf(before)} months={figures.months} currency={currency} />
      <ChartAndTable
        title="By the month in which it failed"
        says="What failed in a month, and what became of it until now, whenever that was. The rate is of what failed in cases that are over."
        table={sumTable('recovery-by-month', 'Month', byMonth, currency)}
      >
        <StackedBars
          {...title('What failed in each month, and what became of it')}
          labels={byMonth.map(([month]) => month)}
          parts={bars(byMonth)}
          rates={byMonth.map(([, { rate }]) => rate)}
        />
      </ChartAndTable>
      <ChartAndTable title="By reason" table={sumTable('recovery-by-reason', 'Reason', byReason, currency)}>
        <StackedBars
          {...title('What failed for each reason, and what became of it')}
          labels={byReason.map(([reason, { rate }]) => withRate(reason, rate))}
          parts={bars(byReason)}
          lying
        />
      </ChartAndTable>
      <ChartAndTable
        title="By ladder"
        says={
          <>
            Ladders that serve other customers are not comparable by these rates.{' '}
            <TextLink asChild color="kelp.fg">
              <Link to="/ladders/what-if">Compare them on the same payments</Link>
            </TextLink>
            .
          </>
        }
        table={sumTable('recovery-by-ladder', 'Ladder', byLadder, currency)}
      >
        <StackedBars
          {...title('What failed on each ladder, and what became of it')}
          labels={byLadder.map(([ladder, { rate }]) => withRate(ladder, rate))}
          parts={bars(byLadder)}
          lying
        />
      </ChartAndTable>
      <ChartAndTable
        title="Recovered after which rung"
        says="Of cases that were recovered: how many rungs had been climbed."
        table={sumTable('recovery-by-rung', 'Rung', byRung, currency)}
      >
        <StackedBars
          {...title('Money recovered after each rung')}
          labels={byRung.map(([rung]) => rung)}
          parts={[part('Recovered', 'kelp-solid', byRung, ({ recovered }) => recovered / unit)]}
          lying
        />
      </ChartAndTable>
      <ChartAndTable
        title="Days until it was paid"
        table={{
          name: 'days-to-recovery',
          columns: ['Days', 'Cases', `Recovered, ${currency}`],
          rows: days.map((one) => [one.part, String(one.cases), sayFigure(BigInt(one.recovered), currency)]),
          plain: days.map((one) => [one.part, String(one.cases), typedOf(BigInt(one.recovered), currency)]),
        }}
      >
        <StackedBars
          says="Cases by the days until they were paid"
          unit="Cases"
          labels={days.map(({ part: name }) => name)}
          parts={[{ label: 'Cases', colour: 'kelp-solid', values: days.map(({ cases }) => cases) }]}
        />
      </ChartAndTable>
      <ChartAndTable
        title="Given up, and why"
        says={lost.rows.length === 0 ? 'No case was given up in these months.' : undefined}
        table={lost}
        open
      >
        {null}
      </ChartAndTable>
    </Suspense>
  );
}

const withRate = (name: string, rate: number | null) =>
  rate === null ? name : `${name} (${sayRate(rate)} %)`;

function part(
  label: string,
  colour: string,
  sums: readonly (readonly [string, CaseSum])[],
  of: (sum: CaseSum) => number,
) {
  return { label, colour, values: sums.map(([, sum]) => of(sum)) };
}

/** What these months came to, each beside as many months before. */
function Against(props: {
  readonly now: CaseSum;
  readonly before: CaseSum;
  readonly months: number;
  readonly currency: string;
}) {
  const { now, before, months, currency } = props;
  const money = (minor: number) => sayAmount(BigInt(Math.round(minor)), currency);
  const figures: readonly (readonly [string, string, string])[] = [
    ['Recovered', money(now.recovered), money(before.recovered)],
    ['Rate', orNone(sayRate(now.rate), ' %'), orNone(sayRate(before.rate), ' %')],
    ['At risk now', money(now.atRisk + before.atRisk), `${now.casesOpen + before.casesOpen} open`],
    ['Lost', money(now.lost), money(before.lost)],
    ['Given up', String(now.casesGivenUp), String(before.casesGivenUp)],
    ['Days until paid', orNone(sayDays(now.days)), orNone(sayDays(before.days))],
  ];
  return (
    <Box as="dl" display="flex" flexWrap="wrap" gap="6" mb="6">
      {figures.map(([name, here, earlier]) => (
        <Box key={name} minW="110px">
          <Box as="dt" color="muted" fontSize="13px">
            {name}
          </Box>
          <Box as="dd" fontSize="20px" fontFamily="heading">
            {here}
          </Box>
          <Box as="dd" color="muted" fontSize="12.5px">
            {name === 'At risk now' ? earlier : `${months} months before: ${earlier}`}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

const orNone = (said: string, unit = '') => (said === '' ? 'none yet' : `${said}${unit}`);
