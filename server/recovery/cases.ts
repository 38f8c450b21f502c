import { formatDay, toDay } from '../../core/dates/day.ts';
import { EVERY_DAY } from '../../core/dates/workingDay.ts';
import type { LadderPolicy, Rung } from '../../core/recovery/ladder.ts';
import { toCome } from '../../core/recovery/stepOfCase.ts';
import { capital } from '../../core/words/capital.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { readAll, readLongPage } from '../http/longList.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Page } from '../http/list.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { chancesOfCases } from './chances.ts';
import { caseList, INVOICES_OF_CASE, MOMENTS_OF_CASE } from './cases.sql.ts';
import { caseQuery, type CaseDetail, type CaseMoment, type CaseQuery, type CaseRow } from './messages.ts';
import { FINALS, nextDate, sayCase, sayNext, sayRung, sayWhy } from './sayCase.ts';
import { policyOf, standingOf, type StoredStanding } from './standing.ts';
import { sayMoment, type MomentRow } from './sayMoment.ts';

type Shown = Omit<CaseRow, 'why' | 'says' | 'next' | 'nextOn' | 'rung' | 'rungs' | 'chance'> &
  Pick<CaseDetail, 'ladderId' | 'ladderVersion' | 'hasNewer' | 'collects'>;

/** A case as it is read: what is shown, what it is climbed by, and how far it has. */
type Row = Shown &
  StoredStanding &
  LadderPolicy & { readonly code: string | null } & {
    readonly retries: number;
    readonly lastLetterOn: string | null;
  };

/** One page of the recovery cases. */
export async function listCases(almanac: Almanac, query: CaseQuery): Promise<Page<CaseRow>> {
  const today = await businessDateOf(almanac);
  const page = await readLongPage<Row>(almanac.db, await asked(query, today), newestFirst(query));
  const chanceOf = await chancesOfCases(almanac, today);
  return { ...page, rows: page.rows.map((row) => rowOf(row, today, chanceOf)) };
}

/** All cases that are asked for, some at a time. */
export async function* allCases(almanac: Almanac, query: CaseQuery): AsyncGenerator<CaseRow[]> {
  const today = await businessDateOf(almanac);
  const chanceOf = await chancesOfCases(almanac, today);
  for await (const rows of readAll<Row>(almanac.db, await asked(query, today), newestFirst(query)))
    yield rows.map((row) => rowOf(row, today, chanceOf));
}

const newestFirst = (query: CaseQuery) => (query.sort === '' ? { ...query, sort: '-opened' } : query);

async function asked(query: CaseQuery, today: string) {
  const { homeCurrency } = await theBusiness();
  return caseList(query, today, homeCurrency);
}

/** One case with its line of time and what is to come of it, or a refusal where there is none. */
export async function readCase(almanac: Almanac, id: string): Promise<CaseDetail> {
  const today = await businessDateOf(almanac);
  const query = caseQuery.parse({ id });
  const [row] = (await readLongPage<Row>(almanac.db, await asked(query, today), query)).rows;
  if (!row) throw new RefusedCommand(404, 'There is no such case.');
  const happened = await almanac.db.rows<MomentRow>(MOMENTS_OF_CASE, { id });
  const invoices = await almanac.db.rows<CaseDetail['invoices'][number]>(INVOICES_OF_CASE, { id, today });
  const shown = rowOf(row, today, await chancesOfCases(almanac, today));
  const { ladderId, ladderVersion, hasNewer, collects } = row;
  return {
    ...{ ...shown, ladderId, ladderVersion, hasNewer, collects, invoices },
    moments: [
      {
        ...{ on: row.openedOn, kind: 'opened', by: '', to: null, isToCome: false },
        ...{ says: 'The case was opened', beside: row.ladder },
      },
      ...happened.map(sayMoment),
      ...(row.state === 'open' ? await comingOf(almanac, row, today) : [closedMoment(shown)]),
    ],
  };
}

function closedMoment({ closedOn, says }: CaseRow): CaseMoment {
  return { on: closedOn ?? '', kind: 'closed', says, beside: '', by: '', to: null, isToCome: false };
}

/** What is to come of an open case, if nothing happens. */
async function comingOf(almanac: Almanac, row: Row, today: string): Promise<CaseMoment[]> {
  const ladder = policyOf(row);
  const standing = standingOf(row);
  const calendar = ladder.manner.workingDays ? (await loadLaw(almanac)).homeWorkingDays() : EVERY_DAY;
  // What is late, because something is waited for, comes today at the earliest.
  const from = Math.max(standing.nextOn, toDay(today), standing.asideUntil ?? 0);
  const late = from - standing.nextOn;
  const { rungs, finalOn } = toCome(
    { ...standing, nextOn: from, waited: standing.waited + late },
    { ladder, calendar },
  );
  const base = { beside: '', by: '', to: null, isToCome: true } as const;
  return [
    ...(standing.retryOn === null
      ? []
      : [{ ...base, on: nextDate(standing, today), kind: 'rung' as const, says: 'Ask the bank again' }]),
    ...rungs.map(({ rung, on }) => ({
      ...{ ...base, on: formatDay(on), kind: 'rung' as const },
      says: capital(sayRung(row.rungs[rung] ?? NOTHING, row.declineClass, row.collects)),
      beside: `rung ${rung + 1} of ${row.rungs.length}`,
    })),
    { ...base, on: formatDay(finalOn), kind: 'closed', says: `At the end ${FINALS[row.finalAction]}` },
  ];
}

const NOTHING: Rung = { afterDays: 0, retry: false, letter: false };

function rowOf(row: Row, today: string, chanceOf: (row: Row) => number | null): CaseRow {
  const standing = standingOf(row);
  const isOpen = row.state === 'open';
  const next = isOpen ? sayNext(standing, policyOf(row), row.collects) : '';
  const { id, state, openedOn, closedOn, closedHow, subscriptionId, customerId, customer, plan } = row;
  const { ladder, owed, currency, attempts, letters, assignedTo, assigned, asideUntil, serviceStoppedOn } =
    row;
  return {
    ...{ id, state, openedOn, closedOn, closedHow, subscriptionId, customerId, customer, plan },
    ...{ ladder, owed, currency, attempts, letters, assignedTo, assigned, asideUntil, serviceStoppedOn },
    ...{
      next,
      nextOn: isOpen ? nextDate(standing, today) : null,
      rung: row.lastRung + 1,
      rungs: row.rungs.length,
    },
    chance: isOpen ? chanceOf(row) : null,
    why: sayWhy(row.code, row.collects),
    says: sayCase({ ...row, next }),
  };
}
