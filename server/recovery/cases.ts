import { meaningOf, NO_METHOD, type DeclineClass } from '../../core/recovery/declineCodes.ts';
import { mayRetry, type Rung } from '../../core/recovery/ladder.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import { rungDay } from '../../core/recovery/ladder.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { RefusedCommand } from '../http/problem.ts';
import { listQuery, type ListQuery, type Page } from '../http/list.ts';
import { readAll, readLongPage, type LongList } from '../http/longList.ts';
import { searchBySubscription, searchPatterns } from '../http/search.ts';
import type { CaseRow, CaseStep } from './messages.ts';

interface Row extends Omit<CaseRow, 'steps' | 'why' | 'says'> {
  readonly collects: 'automatic' | 'by hand';
  readonly decline_class: DeclineClass;
  readonly code: string | null;
  readonly next_rung: number;
  readonly next_rung_on: string | null;
  readonly rungs: Rung[];
  readonly final_action: string;
  readonly final_after_days: number;
  readonly climbed: { rung: number; climbed_on: string; did: string }[] | null;
}

/** What is owed on cases: of the few invoices that are open. */
const OWED = `left join (
  select i.case_id, sum(d.owed) as owed from open_dues d join invoices i on i.id = d.invoice_id
  where i.case_id is not null and (d.due_on <= $today::date or not d.of_several) group by 1) o on o.case_id = k.id`;

/** One page of the recovery cases, each with the steps of its ladder: climbed, next and to come. */
export async function listCases(almanac: Almanac, query: CaseQuery): Promise<Page<CaseRow>> {
  const page = await readLongPage<Row>(almanac.db, await caseList(almanac, query), newestFirst(query));
  return { ...page, rows: page.rows.map(viewOf) };
}

/** All cases that are asked for, some at a time. */
export async function* allCases(almanac: Almanac, query: CaseQuery): AsyncGenerator<CaseRow[]> {
  for await (const rows of readAll<Row>(almanac.db, await caseList(almanac, query), newestFirst(query)))
    yield rows.map(viewOf);
}

type CaseQuery = ListQuery & { readonly id?: string };
const newestFirst = (query: CaseQuery) => (query.sort === '' ? { ...query, sort: '-opened' } : query);

async function caseList(almanac: Almanac, { search, state, id }: CaseQuery): Promise<LongList> {
  return {
    ...{ from: 'recovery_cases k', alias: 'k' },
    search: search === '' ? undefined : searchBySubscription('k'),
    where: [...(state === '' ? [] : ['k.state = $state']), ...(id === undefined ? [] : ['k.id::text = $id'])],
    shown: `
        select k.id::text, k.state, k.opened_on as "openedOn", k.closed_on as "closedOn", k.decline_class, k.next_rung, k.next_rung_on,
          s.id::text as "subscriptionId", c.id::text as "customerId", c.name as customer, p.name as plan,
          l.name || ', version ' || l.version as ladder, l.rungs, l.final_action, l.final_after_days,
          (select a.response_code from attempts a join invoices i on i.id = a.invoice_id
           where i.case_id = k.id and a.state = 'declined' order by a.id desc limit 1) as code,
          (select coalesce(sum(owed), 0)::text from (
             -- Invoice by invoice: then only what is open of these is looked at, and not of everybody.
             select (select sum(d.owed) from open_dues d
                     where d.invoice_id = i.id and (d.due_on <= $today or not d.of_several)) as owed
             from invoices i where i.case_id = k.id) as open) as owed, s.collects,
          (select min(currency) from invoices i where i.case_id = k.id) as currency,
          (select json_agg(json_build_object('rung', rung, 'climbed_on', climbed_on, 'did', did) order by rung)
           from rungs_climbed r where r.case_id = k.id) as climbed
        from recovery_cases k join subscriptions s on s.id = k.subscription_id
        join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
        join ladders l on l.id = k.ladder_id
        where k.id = any($ids::bigint[])`,
    bound: {
      ...{ patterns: searchPatterns(search), state, id: id ?? '' },
      today: await businessDateOf(almanac),
    },
    orders: {
      opened: { by: ['k.opened_on'] },
      customer: {
        by: ['c.name'],
        joins: 'join subscriptions s on s.id = k.subscription_id join customers c on c.id = s.customer_id',
      },
      next: { by: ['k.next_rung_on'], mayLack: true },
      owed: { by: ['coalesce(o.owed, 0)'], joins: OWED },
    },
  };
}

/** One case, or a refusal where there is none. */
export async function readCase(almanac: Almanac, id: string): Promise<CaseRow> {
  const [found] = (await listCases(almanac, { ...listQuery.parse({}), id })).rows;
  if (!found) throw new RefusedCommand(404, 'There is no such case.');
  return found;
}

function viewOf({
  rungs,
  climbed,
  code,
  decline_class,
  next_rung,
  next_rung_on,
  final_action,
  final_after_days,
  collects,
  ...row
}: Row): CaseRow {
  const policy = { rungs, finalAction: 'lapse' as const, finalAfterDays: final_after_days };
  const opened = toDay(row.openedOn);
  const steps: CaseStep[] = rungs.map((rung, i) => {
    const done = climbed?.find((one) => one.rung === i);
    const planned = i === next_rung && next_rung_on ? next_rung_on : formatDay(rungDay(policy, opened, i));
    const does = [
      mayRetry(rung, decline_class) ? 'try the card again' : '',
      rung.letter ? 'write to the customer' : '',
    ]
      .filter(Boolean)
      .join(' and ');
    return {
      date: done?.climbed_on ?? planned,
      says: done?.did ?? (does || 'nothing: the card cannot be tried'),
      state: done ? 'done' : row.state === 'open' ? 'to come' : 'cancelled',
    };
  });
  const last =
    next_rung >= rungs.length && next_rung_on
      ? next_rung_on
      : formatDay(rungDay(policy, opened, rungs.length));
  steps.push({
    date: row.state === 'given up' ? (row.closedOn ?? last) : last,
    says: `${final_action} the subscription`,
    state: row.state === 'given up' ? 'done' : row.state === 'open' ? 'to come' : 'cancelled',
  });
  const byHand = collects === 'by hand';
  const unpaid = byHand ? 'the invoice has not been paid' : NO_METHOD.says;
  const why = code === null ? unpaid : meaningOf(code).says;
  return { ...row, steps, why, says: sayCase(row.state, decline_class, byHand, steps) };
}

function sayCase(
  state: CaseRow['state'],
  declineClass: DeclineClass,
  byHand: boolean,
  steps: readonly CaseStep[],
): string {
  if (state === 'recovered') return 'Recovered.';
  if (state === 'given up') return 'Given up: the ladder was climbed to its end.';
  const next = steps.find((step) => step.state === 'to come');
  const asks = !byHand && (declineClass === 'ask' || declineClass === 'never');
  return `${asks ? 'Only the customer can mend this card. ' : ''}Next: ${next?.says ?? 'nothing'}.`;
}
