import { Button, Flex, Text } from '@chakra-ui/react';
import { lazy, Suspense, useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { capital } from '../../../core/words/capital.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import { exponentOf } from '../../../core/money/currency.ts';
import { sayDayAndMonth, sayDayMonthYear } from '../../../core/words/date.ts';
import type { LadderRow } from '../../../server/recovery/ladderMessages.ts';
import { CASE_KINDS, type CaseDetail, type CaseRow } from '../../../server/recovery/messages.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Loading } from '../../frame/PageLoading.tsx';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { ListPage, type Column, type Filter } from '../../parts/list/ListPage.tsx';
import { sayShare } from '../../parts/sayShare.ts';
import { StateMark } from '../../parts/StateMark.tsx';

// What stands in the margin is loaded when it is first opened.
const ChosenCase = lazy(() => import('./ChosenCase.tsx').then((part) => ({ default: part.ChosenCase })));
const ActOnMany = lazy(() => import('./ActOnMany.tsx').then((part) => ({ default: part.ActOnMany })));

const COLUMNS: readonly Column<CaseRow>[] = [
  {
    heading: 'Customer',
    sort: 'customer',
    width: '24%',
    cell: (row) => row.customer,
    under: (row) => [row.plan, row.assigned ?? ''].filter(Boolean).join(' · '),
  },
  {
    heading: 'State, opened',
    sort: 'opened',
    width: '118px',
    cell: (row) => <StateMark state={row.state} />,
    under: (row) => sayDayMonthYear(row.openedOn),
  },
  {
    heading: 'Why',
    cell: (row) => capital(row.why),
    under: (row) => `${sayTimes(row.attempts, 'attempt')}, ${sayTimes(row.letters, 'letter')}`,
  },
  {
    heading: 'Owed',
    sort: 'owed',
    width: '96px',
    right: true,
    cell: (row) => (row.owed === '0' ? '' : sayAmount(BigInt(row.owed), row.currency)),
    under: (row) => (row.chance === null ? '' : `chance ${sayShare(row.chance)}`),
  },
  {
    heading: 'Next',
    sort: 'next',
    width: '268px',
    roomy: true,
    cell: (row) => (row.nextOn === null ? row.says : `${sayDayAndMonth(row.nextOn)}: ${row.next}`),
    under: (row) =>
      row.asideUntil
        ? `set aside until ${sayDayMonthYear(row.asideUntil)}`
        : `${row.rung} of ${row.rungs} rungs, ${row.ladder}`,
  },
];

const sayTimes = (n: number, what: string) => (n === 1 ? `1 ${what}` : `${n} ${what}s`);

/** The board of recovery cases, open ones by default: who owes what, why, what comes next; what can be done with one, or with several. */
export function CasesPage() {
  const [params, setParams] = useSearchParams();
  const wanted = params.get('case');
  const { data } = useAnswer<CaseDetail>(wanted === null ? null : `/api/cases/${wanted}`);
  const filters = useCaseFilters();
  const choose = (row: CaseRow) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('case', row.id);
        return next;
      },
      { replace: true },
    );
  return (
    <PageAndMargin
      title="Recovery cases"
      action={
        <Flex gap="2">
          <Button asChild size="sm" variant="outline">
            <Link to="/expiring-cards">Cards that expire</Link>
          </Button>
          <ForWriters>
            <Button asChild size="sm" variant="outline">
              <Link to="/suspensions">Stop collecting …</Link>
            </Button>
          </ForWriters>
        </Flex>
      }
      marginLabel="The chosen case"
      margin={
        wanted !== null &&
        (data?.id === wanted ? <ChosenCase key={data.id} found={data} /> : <Loading shape="margin" />)
      }
    >
      <ListPage<CaseRow>
        path="/api/cases"
        label="cases"
        states={['open', 'recovered', 'given up']}
        usual={{ state: 'open', says: 'Open' }}
        kinds={CASE_KINDS}
        anyKind="Any reason"
        filters={filters}
        dates={{ opened: 'Opened', next: 'Next step', closed: 'Closed' }}
        chosen={wanted}
        onChoose={choose}
        several={{
          nameOf: (row) => `the case of ${row.customer}`,
          act: (rows) => (
            <Suspense fallback={null}>
              <ActOnMany rows={rows} />
            </Suspense>
          ),
        }}
        empty={<Text>No case is open. When a payment fails, its case opens here by itself.</Text>}
        columns={COLUMNS}
      />
    </PageAndMargin>
  );
}

/** What cases are filtered by, beside what every list has: plan, sum, person, ladder. */
function useCaseFilters(): readonly Filter[] {
  const { homeCurrency } = useFrame();
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const { data: people } = useAnswer<{ id: string; name: string }[]>('/api/staff-names');
  const { data: ladders } = useAnswer<LadderRow[]>('/api/ladders');
  return useMemo(() => {
    const whole = 10n ** BigInt(exponentOf(homeCurrency) ?? 2);
    const least = [10n, 50n, 100n, 500n].map((sum) => sum * whole);
    return [
      {
        ...{ name: 'plan', label: 'Plan', all: 'Any plan' },
        choices: (plans ?? []).map(({ id, name }) => [id, name] as const),
      },
      {
        ...{ name: 'least', label: 'Owed at least', all: 'Any sum' },
        choices: least.map((sum) => [sum.toString(), `${sayAmount(sum, homeCurrency)} and more`] as const),
      },
      {
        ...{ name: 'person', label: 'Person', all: 'Anybody' },
        choices: [['nobody', 'Nobody yet'], ...(people ?? []).map(({ id, name }) => [id, name] as const)],
      },
      {
        ...{ name: 'ladder', label: 'Ladder', all: 'Any ladder' },
        choices: (ladders ?? []).map(({ id, name }) => [id, name] as const),
      },
    ];
  }, [plans, people, ladders, homeCurrency]);
}
