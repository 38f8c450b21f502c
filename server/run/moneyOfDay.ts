import { addDuration } from '../../core/dates/duration.ts';
import { formatDay, toDay } from '../../core/dates/day.ts';
import type { Almanac } from '../almanac.ts';
import { readDaySums } from '../forecast/daySums.sql.ts';
import type { DayMoney, MoneySum } from './messages.ts';

interface Row {
  readonly what: 'due' | 'done' | 'failed' | 'back';
  readonly currency: string;
  readonly method: string;
  readonly payments: number;
  readonly amount: string;
}

/** How a payment is made, as the sheet names it; of `attempts a` and its method `m`. */
const METHOD = `case when a.means <> 'gateway' then a.means when m.kind = 'bank account' then 'bank debit' else m.kind end`;

/** How an invoice `i` of a subscription `s` is meant to be paid. */
const MEANT = `case when s.collects = 'by hand' then 'by hand' else coalesce((
  select case m.kind when 'bank account' then 'bank debit' else m.kind end from payment_methods m
  where m.customer_id = s.customer_id and m.state <> 'replaced' and (m.id = s.own_method_id or m.role = 'primary')
  order by m.id = s.own_method_id desc nulls last limit 1), 'card') end`;

/** What fell due on a day, what came in, what failed and what went back, by currency and method. */
const MOVED = `
  select 'due' as what, i.currency, ${MEANT} as method, 1 as payments, greatest(i.total, 0) - i.credit_used - i.credited as amount
  from invoices i join subscriptions s on s.id = i.subscription_id
  where i.due_on = $date and i.state <> 'withdrawn' and i.total > i.credit_used + i.credited
    and not exists (select from dues d where d.invoice_id = i.id)
  union all
  select 'due', i.currency, ${MEANT}, 1, d.amount
  from dues d join invoices i on i.id = d.invoice_id join subscriptions s on s.id = i.subscription_id
  where d.due_on = $date and d.amount > 0 and i.state <> 'withdrawn'
  union all
  select 'done', p.currency, ${METHOD}, 1, p.amount
  from payments p join attempts a on a.id = p.attempt_id left join payment_methods m on m.id = a.payment_method_id
  where p.paid_on = $date
  union all
  select 'failed', i.currency, ${METHOD}, 1, a.amount
  from attempts a join invoices i on i.id = a.invoice_id left join payment_methods m on m.id = a.payment_method_id
  where a.attempted_on = $date and a.state = 'declined'
  union all
  select 'back', f.currency, case when f.means = 'gateway' then 'card' else f.means end, 1, f.amount
  from refunds f where f.settled_on = $date and f.state = 'done'`;

/**
 * The money of a day: what was planned for it against what was done, by currency and by method, beside the same day of the month
 * before. What is planned and not invoiced yet stands with the planned charges of the sheet.
 */
export async function moneyOfDay({ db }: Almanac, date: string): Promise<DayMoney> {
  const monthBefore = formatDay(addDuration(toDay(date), { count: 1, unit: 'M' }, -1));
  const [rows, before] = await Promise.all([
    db.rows<Row>(
      `select what, currency, method, count(*)::int as payments, sum(amount)::text as amount
       from (${MOVED}) moved group by 1, 2, 3 order by 2, 3`,
      { date },
    ),
    readDaySums({ db }, monthBefore, monthBefore),
  ]);
  const currencies = [
    ...new Set([
      ...rows.map(({ currency }) => currency),
      ...before.filter(({ kind }) => kind === 'collected').map(({ currency }) => currency),
    ]),
  ].sort();
  return {
    monthBefore,
    currencies: currencies.map((currency) => {
      const own = rows.filter((row) => row.currency === currency);
      const of = (what: Row['what'], method?: string): MoneySum =>
        summed(own.filter((row) => row.what === what && (method === undefined || row.method === method)));
      const methods = [...new Set(own.map(({ method }) => method))];
      return {
        currency,
        ...{ due: of('due'), done: of('done'), failed: of('failed'), back: of('back') },
        before: summed(before.filter((one) => one.kind === 'collected' && one.currency === currency)),
        methods: methods.map((method) => ({
          method,
          ...{ due: of('due', method), done: of('done', method) },
          ...{ failed: of('failed', method), back: of('back', method) },
        })),
      };
    }),
  };
}

function summed(rows: readonly { readonly payments: number; readonly amount: string }[]): MoneySum {
  return {
    payments: rows.reduce((count, { payments }) => count + payments, 0),
    amount: rows.reduce((sum, { amount }) => sum + BigInt(amount), 0n).toString(),
  };
}
