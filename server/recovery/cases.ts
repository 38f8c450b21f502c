import { formatDay, toDay } from '../../core/dates/day.ts';
import { EVERY_DAY } from '../../core/dates/workingDay.ts';
import type { DeclineClass } from '../../core/recovery/declineCodes.ts';
import type { FinalAction, LadderPolicy, RetryManner, Rung } from '../../core/recovery/ladder.ts';
import { toCome, type CaseStanding } from '../../core/recovery/stepOfCase.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { readAll, readLongPage } from '../http/longList.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Page } from '../http/list.ts';
import { loadLaw } from '../subscriptions/law.ts';
import { caseList, INVOICES_OF_CASE, MOMENTS_OF_CASE } from './cases.sql.ts';
import { caseQuery, type CaseDetail, type CaseMoment, type CaseQuery, type CaseRow } from './messages.ts';
import { FINALS, nextDate, sayCase, sayNext, sayRung, sayWhy } from './sayCase.ts';
import { sayMoment, type MomentRow } from './sayMoment.ts';

type Shown = Omit<CaseRow, 'why' | 'says' | 'next' | 'nextOn' | 'rung' | 'rungs'> &
  Pick<CaseDetail, 'ladderId' | 'ladderVersion' | 'hasNewer' | 'collects'>;

interface Row extends Shown {
  readonly decline_class: DeclineClass;
  readonly class_from: number;
  readonly passed: number[];
  readonly waited: number;
  readonly last_rung: number;
  readonly last_on: string | null;
  readonly next_rung: number;
  readonly next_rung_on: string | null;
  readonly retry_on: string | null;
  readonly retried: number;
  readonly code: string | null;
  readonly manner: RetryManner;
  readonly final_action: FinalAction;
  readonly final_after_days: number;
  readonly rungs: Rung[];
}

/** One page of the recovery cases. */
export async function listCases(almanac: Almanac, query: CaseQuery): Promise<Page<CaseRow>> {
  const page = await readLongPage<Row>(almanac.db, await asked(almanac, query), newestFirst(query));
  return { ...page, rows: page.rows.map((row) => rowOf(row)) };
}

/** All cases that are asked for, some at a time. */
export async function* allCases(almanac: Almanac, query: CaseQuery): AsyncGenerator<CaseRow[]> {
  for await (const rows of readAll<Row>(almanac.db, await asked(almanac, query), newestFirst(query)))
    yield rows.map((row) => rowOf(row));
}

const newestFirst = (query: CaseQuery) => (query.sort === '' ? { ...query, sort: '-opened' } : query);

async function asked(almanac: Almanac, query: CaseQuery) {
  const { homeCurrency } = await theBusiness();
  return caseList(query, await businessDateOf(almanac), homeCurrency);
}

/** One case with its line of time and what is to come of it, or a refusal where there is none. */
export async function readCase(almanac: Almanac, id: string): Promise<CaseDetail> {
  const today = await businessDateOf(almanac);
  const query = caseQuery.parse({ id });
  const [row] = (await readLongPage<Row>(almanac.db, await asked(almanac, query), query)).rows;
  if (!row) throw new RefusedCommand(404, 'There is no such case.');
  const happened = await almanac.db.rows<MomentRow>(MOMENTS_OF_CASE, { id });
  const invoices = await almanac.db.rows<CaseDetail['invoices'][number]>(INVOICES_OF_CASE, { id, today });
  const shown = rowOf(row);
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
  const ladder = policyOfRow(row);
  const standing = standingOfRow(row);
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
      : [{ ...base, on: nextDate(standing), kind: 'rung' as const, says: 'Ask the bank again' }]),
    ...rungs.map(({ rung, on }) => ({
      ...{ ...base, on: formatDay(on), kind: 'rung' as const },
      says: capital(sayRung(row.rungs[rung] ?? NOTHING, row.decline_class, row.collects)),
      beside: `rung ${rung + 1} of ${row.rungs.length}`,
    })),
    { ...base, on: formatDay(finalOn), kind: 'closed', says: `At the end ${FINALS[row.final_action]}` },
  ];
}

const NOTHING: Rung = { afterDays: 0, retry: false, letter: false };
const capital = (text: string) => `${text.slice(0, 1).toUpperCase()}${text.slice(1)}`;

function policyOfRow({ rungs, final_action, final_after_days, manner }: Row): LadderPolicy {
  return { rungs, finalAction: final_action, finalAfterDays: final_after_days, manner };
}

function standingOfRow(row: Row): CaseStanding {
  const day = (date: string | null) => (date === null ? null : toDay(date));
  return {
    ...{ declineClass: row.decline_class, classFrom: row.class_from, passed: row.passed, waited: row.waited },
    ...{ openedOn: toDay(row.openedOn), lastRung: row.last_rung, lastOn: day(row.last_on) },
    ...{ nextRung: row.next_rung, nextOn: toDay(row.next_rung_on ?? row.openedOn) },
    ...{ retryOn: day(row.retry_on), retried: row.retried, asideUntil: day(row.asideUntil) },
  };
}

function rowOf(row: Row): CaseRow {
  const standing = standingOfRow(row);
  const isOpen = row.state === 'open';
  const next = isOpen ? sayNext(standing, policyOfRow(row), row.collects) : '';
  const { id, state, openedOn, closedOn, closedHow, subscriptionId, customerId, customer, plan } = row;
  const { ladder, owed, currency, attempts, letters, assignedTo, assigned, asideUntil, serviceStoppedOn } =
    row;
  return {
    ...{ id, state, openedOn, closedOn, closedHow, subscriptionId, customerId, customer, plan },
    ...{ ladder, owed, currency, attempts, letters, assignedTo, assigned, asideUntil, serviceStoppedOn },
    ...{ next, nextOn: isOpen ? nextDate(standing) : null, rung: row.last_rung + 1, rungs: row.rungs.length },
    why: sayWhy(row.code, row.collects),
    says: sayCase({ ...row, declineClass: row.decline_class, next }),
  };
}
