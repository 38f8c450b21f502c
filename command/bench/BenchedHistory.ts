import { PaymentWalk } from '../../core/listing/paymentWalk.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import { requireTerms } from '../../core/terms/check.ts';
import { mendForesight } from '../../server/verify/foresight.ts';
import { turnDay } from '../../server/run/turnDay.ts';
import type { Cluster } from '../cluster.ts';
import { Bench, TERMS } from './BenchedBusiness.ts';

/** The business day of a business with a history. */
export const HISTORY_DAY = '2028-01-15';
/** Days of the month on which subscriptions renew, as many of them on each. */
const DAYS = 28;

const FIRST_NAMES =
  'Ada Bryn Cora Dell Edda Finn Greta Hale Ines Joss Kit Lena Milo Nell Orla Pim Quill Rhea Sol Tove Una Vigo Wren Yara Zeno';
const LAST_NAMES =
  'Ashdown Barrow Cindermoor Dunlin Eastwick Farrow Gorsehill Heron Islip Juniper Kestrel Larkspur Merrow Nettle Oakhanger Pipit Quarrel Ridley Sedge Tansy Ullock Vetch Whinfell Yarrow Zinnia';

/**
 * A business of so many subscriptions with a year behind it: each was invoiced and charged every month, some charges were
 * declined and came in later, some are in recovery now, some have ended. Built by SQL, from what the product wrote for one.
 */
export async function benchedHistory(
  cluster: Cluster,
  folder: string,
  count: number,
  port: number,
  say: (text: string) => void,
): Promise<Bench> {
  const name = `bench_history_${count}`;
  const bench = await Bench.open(cluster, folder, name, port, true);
  if (bench.isKept) return bench;
  const began = performance.now();
  // One renewal as the product does it is what all others are made of.
  await bench.addSubscriptions(1, true);
  await turnDay(bench.almanac, Bench.dayOf(1));
  await addPeople(bench, count);
  await addHistory(bench);
  await mendForesight(bench.almanac);
  await bench.almanac.db.sequelize.query('vacuum analyze');
  bench.keep(name);
  say(
    `${count.toLocaleString('en')} subscriptions with a year of history built in ${Math.round((performance.now() - began) / 1000)} s`,
  );
  return bench;
}

/**
 * As many credit notes as there are subscriptions, for as long as something is measured with them: nothing else of the books knows
 * of them, so that they are gone before `verify` looks.
 */
export async function withCreditNotes<T>({ almanac: { db } }: Bench, work: () => Promise<T>): Promise<T> {
  await db.rows(
    `insert into credit_notes (number, prefix, customer_id, subscription_id, invoice_id, kind, period_from, period_to, issued_on,
       currency, lines, taxes, net, tax, total, set_off, to_credit, reason, parties_id)
     select row_number() over (order by i.issued_on, i.id), 'CN-', i.customer_id, i.subscription_id, i.id, 'correction', i.period_from,
       i.period_to, i.issued_on + 2, i.currency, i.lines, i.taxes, i.net, i.tax, i.total, 0, i.total, 'Measured', i.parties_id
     from invoices i join (select min(id) as id from invoices group by subscription_id) first on first.id = i.id where i.total > 0`,
  );
  await db.sequelize.query('vacuum analyze credit_notes');
  try {
    return await work();
  } finally {
    await db.rows('delete from credit_notes');
  }
}

async function addPeople({ almanac: { db } }: Bench, count: number): Promise<void> {
  await db.rows(
    `with p as (
       insert into plans (key, name)
       select 'plan-' || n, (array['Apiary Watch', 'Meadow Box', 'Orchard Share', 'River Post', 'Wool Letter', 'Garden Plot'])[n]
       from generate_series(1, 6) n returning id, key),
     r as (
       insert into rates (plan_id, key, name, terms)
       select id, 'rate-' || n, (array['Monthly', 'With a friend'])[n], $terms::jsonb from p, generate_series(1, 2) n returning id, terms)
     insert into rate_versions (rate_id, version, name, terms, tax_choice, options, saved_by)
     select id, 1, 'Monthly', terms, '{"kind":"default"}', '{}', 'bench' from r`,
    { terms: JSON.stringify(TERMS) },
  );
  for (let day = 1; day <= DAYS; day += 1) {
    const starts = `2027-01-${String(day).padStart(2, '0')}`;
    const terms = requireTerms({ ...TERMS, starts, on: { day } });
    const walk = new PaymentWalk(compileTerms(terms));
    const invoiced = starts.slice(8) <= HISTORY_DAY.slice(8) ? 13 : 12;
    for (let n = 0; n < invoiced; n += 1) walk.next();
    const wakeOn = invoiced === 13 ? `2028-02-${starts.slice(8)}` : `2028-01-${starts.slice(8)}`;
    await db.rows(
      `with numbers as (
         select i, i * ${DAYS} + $day::int as n from generate_series(0, $most::int) i where i * ${DAYS} + $day::int <= $count::int),
       people as (
         insert into customers (reference, name, email, created_on)
         select 'H-' || n, (string_to_array($first, ' '))[1 + (n * 7) % 25] || ' ' || (string_to_array($last, ' '))[1 + (n / 25) % 25]
             || case when n > 625 then ' ' || n / 625 else '' end,
           'person' || n || '@post.example', $starts from numbers
         returning id, substr(reference, 3)::int as n),
       cards as (
         insert into payment_methods (customer_id, gateway_account_id, gateway_token, network, last_four, expires_year, expires_month, state, added_on)
         select id, (select min(id) from gateway_accounts), 'history-card-' || n, 'Larkfield', '4242', 2039, 5, 'usable', $starts from people
         returning id),
       agreed as (
         insert into mandates (payment_method_id, agreed_text, channel, given_on) select id, 'I agree.', 'import', $starts from cards)
       insert into subscriptions (reference, customer_id, rate_id, rate_version, terms, walk, state, ended_why, starts_on, wake_on, closed_on, enrolled_on)
       select 'H-' || n, id, (select min(id) from rates) + 1 + n % 12, 1, $terms::jsonb, $walk::jsonb,
         case when n % 97 = 0 then 'ended' when n % 50 = 0 then 'overdue' else 'active' end,
         case when n % 97 = 0 then 'cancelled by the customer' end, $starts,
         case when n % 97 <> 0 then $wakeOn::date end, case when n % 97 = 0 then date '2028-01-14' end, $starts
       from people order by id`,
      {
        ...{ day, count, starts, wakeOn, most: Math.ceil(count / DAYS) },
        ...{ first: FIRST_NAMES, last: LAST_NAMES },
        ...{ terms: JSON.stringify(terms), walk: JSON.stringify(walk.position()) },
      },
    );
  }
  await db.rows('update business set business_date = $day', { day: HISTORY_DAY });
  await db.sequelize.query('analyze customers, payment_methods, subscriptions');
}

/** Copies of the rows of one renewal, with what differs. */
async function addHistory({ almanac: { db } }: Bench): Promise<void> {
  await db.transaction(async (within) => {
    const run = (statement: string) => db.rows(statement, {}, within);
    // Checks of single rows would take most of the time; `almanac verify` looks at the whole afterwards.
    await run('set local session_replication_role = replica');
    await run(`create temp table h on commit drop as
      select s.id as subscription_id, s.customer_id, m.id as method_id, m.gateway_account_id as account_id, s.state, k as period,
        (s.starts_on + make_interval(months => k))::date as period_from, (s.starts_on + make_interval(months => k + 1))::date as period_to,
        row_number() over (order by (s.starts_on + make_interval(months => k))::date, s.id) as n,
        (s.id * 31 + k * 7) % 25 = 0 as late,
        s.state = 'overdue' and (s.starts_on + make_interval(months => k + 1))::date > date '${HISTORY_DAY}' as open
      from subscriptions s join payment_methods m on m.customer_id = s.customer_id cross join generate_series(0, 12) k
      where s.reference like 'H-%' and (s.starts_on + make_interval(months => k))::date <= date '${HISTORY_DAY}'`);
    await run(`create temp table t on commit drop as select * from invoices order by id limit 1`);
    await run(`create temp table base on commit drop as select
      (select max(id) from invoices) as invoice, (select max(number) from invoices) as number,
      (select max(id) from attempts) as attempt, (select max(id) from payments) as payment`);
    await run(`insert into recovery_cases (subscription_id, ladder_id, state, decline_class, opened_on, next_rung, next_rung_on, closed_on)
      select subscription_id, (select id from ladders where is_default limit 1), case when open then 'open' else 'recovered' end, 'wait',
        period_from, 1, case when open then date '${HISTORY_DAY}' + 2 end, case when not open then period_from + 3 end
      from h where late or open order by n`);
    await run(`create temp table c on commit drop as
      select id, subscription_id, opened_on from recovery_cases; create index on c (subscription_id, opened_on); analyze c, h`);
    await run(`insert into invoices (id, number, prefix, subscription_id, customer_id, case_id, kind, period_from, period_to, issued_on, due_on,
        currency, lines, taxes, discount, net, tax, total, collected, state, fields, account, document, parties_id)
      overriding system value
      select base.invoice + n, base.number + n, t.prefix, h.subscription_id, h.customer_id, c.id, 'period', h.period_from, h.period_to,
        h.period_from, h.period_from, t.currency, t.lines, t.taxes, t.discount, t.net, t.tax, t.total,
        case when h.open then 0 else t.total end, case when h.open then 'issued' else 'paid' end, t.fields, t.account, t.document, t.parties_id
      from h cross join t cross join base left join c on c.subscription_id = h.subscription_id and c.opened_on = h.period_from`);
    await run(`insert into attempts (id, invoice_id, customer_id, payment_method_id, gateway_account_id, idempotency_key, amount, reason, channel, state,
        response_code, gateway_charge, attempted_on, settled_at)
      overriding system value
      select base.attempt + 2 * n - tries.k, base.invoice + n, h.customer_id, h.method_id, h.account_id, 'history:' || n || ':' || tries.k, t.total,
        case when tries.k = 0 and h.late then 'retry' else 'renewal' end, (select channel from attempts order by id limit 1),
        case when tries.k = 1 or h.open then 'declined' else 'collected' end, case when tries.k = 1 or h.open then '51' else '00' end,
        'charge-' || n || '-' || tries.k, h.period_from + case when tries.k = 0 and h.late and not h.open then 3 else 0 end, now()
      from h cross join t cross join base cross join generate_series(0, 1) as tries (k)
      where tries.k = 0 or (h.late and not h.open)`);
    await run(`insert into payments (id, invoice_id, attempt_id, amount, currency, paid_on)
      overriding system value
      select base.payment + n, base.invoice + n, base.attempt + 2 * n, t.total, t.currency, h.period_from + case when h.late then 3 else 0 end
      from h cross join t cross join base where not h.open`);
    await run(`insert into journal (posted_on, event, currency, invoice_id, payment_id, accounts, amounts)
      select h.period_from, j.event, j.currency, base.invoice + n, case when j.payment_id is not null then base.payment + n end, j.accounts, j.amounts
      from h cross join base cross join (select * from journal where invoice_id = (select id from t)) j
      where j.payment_id is null or not h.open`);
    await run(`insert into letters (once_key, customer_id, subscription_id, event, reason, to_address, subject, fields, form_id, look_id, written_on, state, sent_at)
      select 'receipt:' || base.payment + n, h.customer_id, h.subscription_id, l.event, l.reason, l.to_address, l.subject, l.fields, l.form_id, l.look_id,
        h.period_from, 'sent', now()
      from h cross join base cross join (select * from letters order by id limit 1) l where not h.open`);
    await run(`select setval(pg_get_serial_sequence('invoices', 'id'), (select max(id) from invoices)),
      setval(pg_get_serial_sequence('attempts', 'id'), (select max(id) from attempts)),
      setval(pg_get_serial_sequence('payments', 'id'), (select max(id) from payments))`);
    await run('update business set next_invoice_number = (select max(number) + 1 from invoices)');
    await run(`insert into days (business_date, finished_at, step)
      select d::date, now(), 99 from generate_series(date '2027-01-01', date '${HISTORY_DAY}' - 1, interval '1 day') d on conflict do nothing`);
  });
}
