import { formatDay, toDay } from '../../core/dates/day.ts';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { plannedThread, type Thread, type ThreadMark } from '../../core/thread/thread.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import type { Law, LawFacts } from '../../core/terms/law.ts';

/** Days ahead that a thread shows what is planned. */
const AHEAD = 120;

export interface ThreadSource extends LawFacts {
  readonly id: string;
  readonly walk: WalkPosition | null;
  readonly state: string;
  readonly closed_on: string | null;
}

interface HistoryRow {
  readonly subscription_id: string;
  readonly kind: 'attempt' | 'open' | 'letter' | 'rung' | 'message';
  readonly date: string;
  readonly state: string;
  readonly code: string | null;
  readonly amount: string;
  readonly currency: string;
}

/** The threads of some subscriptions: what was charged and failed, what is planned, letters of recovery, the end. */
export async function threadsOf(
  almanac: Almanac,
  sources: readonly ThreadSource[],
  businessDate: string,
  law: Law,
): Promise<Map<string, Thread>> {
  const history = await almanac.db.rows<HistoryRow>(
    `select i.subscription_id, 'attempt' as kind, a.attempted_on as date, a.state, a.response_code as code,
            a.amount, i.currency
     from attempts a join invoices i on i.id = a.invoice_id where i.subscription_id = any($ids::bigint[]) and a.state <> 'withdrawn'
     union all
     select i.subscription_id, 'open', d.due_on, i.state, null, d.owed, i.currency
     from open_dues d join invoices i on i.id = d.invoice_id
     where d.invoice_id = any(array(
         select id from invoices where subscription_id = any($ids::bigint[]) and state in ('issued', 'part-paid')))
       and not exists (select 1 from attempts a
                       where a.invoice_id = i.id and a.state <> 'withdrawn'
                         and (not d.of_several or a.attempted_on >= d.due_on))
     union all
     select l.subscription_id, 'letter', l.written_on, l.event, null, 0, ''
     from letters l where l.subscription_id = any($ids::bigint[]) and l.case_id is not null
     union all
     select m.subscription_id, 'message', m.written_on, m.direction, null, 0, ''
     from customer_messages m where m.subscription_id = any($ids::bigint[])
     union all
     select c.subscription_id, 'rung', c.next_rung_on, c.decline_class, null, 0, ''
     from recovery_cases c where c.subscription_id = any($ids::bigint[]) and c.state = 'open' and c.next_rung_on is not null
     order by date`,
    { ids: sources.map(({ id }) => id) },
  );
  const marks = new Map<string, ThreadMark[]>();
  for (const row of history) {
    const list = marks.get(row.subscription_id) ?? [];
    list.push(markOf(row));
    marks.set(row.subscription_id, list);
  }
  const until = formatDay(toDay(businessDate) + AHEAD);
  return new Map(
    sources.map((source) => {
      const closed = source.state === 'lapsed' || source.state === 'ended';
      const planned = plannedThread(source.terms, until, source.walk ?? undefined, law.compile(source));
      const happened = (marks.get(source.id) ?? []).map((mark) =>
        closed && mark.kind === 'planned'
          ? { ...mark, says: `${sayDate(mark.date)}: invoiced and open, not charged any more` }
          : mark,
      );
      const end: ThreadMark[] =
        closed && source.closed_on
          ? [{ kind: 'end', date: source.closed_on, says: `${sayDate(source.closed_on)}: ${source.state}` }]
          : [];
      const thread: Thread = {
        ...planned,
        ends: closed ? source.closed_on : planned.ends,
        marks: [...happened, ...(closed ? end : planned.marks)],
      };
      return [source.id, thread];
    }),
  );
}

function markOf(row: HistoryRow): ThreadMark {
  const { date, kind, state } = row;
  const on = sayDate(date);
  const amount = row.currency === '' ? '' : sayAmount(BigInt(row.amount), row.currency);
  switch (kind) {
    case 'letter':
      return { kind: 'notice', date, says: `${on}: letter, ${state}` };
    case 'message':
      return {
        kind: 'notice',
        date,
        says: `${on}: ${state === 'in' ? 'the customer wrote' : 'we wrote to the customer'}`,
      };
    case 'rung':
      return { kind: 'retry', date, says: `${on}: next step of recovery` };
    case 'open':
      return { kind: 'planned', date, says: `${on}: ${amount} invoiced, to be charged` };
    case 'attempt':
      if (state === 'collected') return { kind: 'collected', date, says: `${on}: ${amount} collected` };
      if (state === 'under way')
        return { kind: 'planned', date, says: `${on}: ${amount}, the outcome is not known yet` };
      if (state === 'refused')
        return { kind: 'planned', date, says: `${on}: ${amount}, the gateway would not take the charge` };
      return { kind: 'declined', date, says: `${on}: ${amount} declined, ${meaningOf(row.code ?? '').says}` };
  }
}
