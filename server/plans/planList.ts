import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { cannotRenew } from '../gateways/abilities.ts';
import { PAGE_SIZE, type ListQuery, type Page } from '../http/list.ts';
import type { PlanRow, PlanView } from './messages.ts';
import { listPlans } from './plans.ts';

/** One page of the plans: what each brings a month, its subscribers by state, and whether it can be sold now. */
export async function listPlanRows(almanac: Almanac, query: ListQuery): Promise<Page<PlanRow>> {
  const plans = await listPlans(almanac, query, true, false);
  const [standing, notSold] = await Promise.all([standingByPlan(almanac), saleFaults(almanac, plans)]);
  const rows = plans
    .map((plan): PlanRow => {
      const rates = plan.rates.filter(({ archivedOn }) => archivedOn === null);
      const more = rates.length > 1 ? `, and ${rates.length - 1} more` : '';
      return {
        id: plan.id,
        name: plan.name,
        kind: plan.kind,
        price: rates[0] ? `${rates[0].says}${more}` : '',
        states: standing.get(plan.id)?.states ?? {},
        subscribers: running(standing.get(plan.id)?.states ?? {}),
        monthly: standing.get(plan.id)?.monthly ?? [],
        notSold: notSold.get(plan.id) ?? null,
        archived: plan.archivedOn !== null,
      };
    })
    .filter((row) => isAskedFor(row, query))
    .sort(orderOf(query.sort));
  const { size = PAGE_SIZE } = query;
  const pages = Math.max(1, Math.ceil(rows.length / size));
  const page = Math.min(query.page, pages);
  return { rows: rows.slice((page - 1) * size, page * size), total: rows.length, page, pages };
}

/** How many are neither ended nor lapsed. */
const running = (states: Readonly<Record<string, number>>) =>
  Object.entries(states).reduce(
    (sum, [state, n]) => (state === 'ended' || state === 'lapsed' ? sum : sum + n),
    0,
  );

/** Archived plans are listed only where they are asked for. */
function isAskedFor(row: PlanRow, { state, kind }: ListQuery): boolean {
  if (kind !== '' && row.kind !== kind) return false;
  if (state === 'archived' || row.archived) return row.archived === (state === 'archived');
  return state === '' || (row.notSold === null) === (state === 'can be sold');
}

function orderOf(sort: string): (a: PlanRow, b: PlanRow) => number {
  const sign = sort.startsWith('-') ? -1 : 1;
  const first = (row: PlanRow) => Number(row.monthly[0]?.amount ?? 0);
  const by: Record<string, (a: PlanRow, b: PlanRow) => number> = {
    subscribers: (a, b) => a.subscribers - b.subscribers,
    monthly: (a, b) => first(a) - first(b),
    kind: (a, b) => a.kind.localeCompare(b.kind),
  };
  const compare = by[sort.replace(/^-/, '')] ?? ((a, b) => a.name.localeCompare(b.name));
  return (a, b) => sign * compare(a, b) || a.name.localeCompare(b.name);
}

/** The monthly value and the subscribers by state of every plan, from what is stored of its subscriptions. */
async function standingByPlan(almanac: Almanac): Promise<Map<string, Standing>> {
  const { homeCurrency: home } = await Business.findOne({ rejectOnEmpty: true });
  const rows = await almanac.db.rows<{
    plan_id: string;
    state: string;
    currency: string;
    n: number;
    monthly: string;
  }>(
    `select r.plan_id::text, s.state, s.currency, sum(s.n)::int as n, sum(s.monthly)::text as monthly
     from (select rate_id, state, currency, count(*) as n, coalesce(sum(monthly), 0) as monthly
           from subscriptions group by 1, 2, 3) s
     join rates r on r.id = s.rate_id group by 1, 2, 3
     order by s.currency <> $home, s.currency`,
    { home },
  );
  const plans = new Map<string, { states: Record<string, number>; monthly: Map<string, bigint> }>();
  for (const { plan_id, state, currency, n, monthly } of rows) {
    const plan = plans.get(plan_id) ?? { states: {}, monthly: new Map<string, bigint>() };
    plans.set(plan_id, plan);
    plan.states[state] = (plan.states[state] ?? 0) + n;
    if (state === 'active' || state === 'overdue')
      plan.monthly.set(currency, (plan.monthly.get(currency) ?? 0n) + BigInt(monthly));
  }
  return new Map(
    [...plans].map(([id, { states, monthly }]) => [
      id,
      {
        states,
        monthly: [...monthly].map(([currency, amount]) => ({ currency, amount: amount.toString() })),
      },
    ]),
  );
}

interface Standing {
  readonly states: Readonly<Record<string, number>>;
  readonly monthly: readonly { readonly currency: string; readonly amount: string }[];
}

/** Why each plan cannot be sold now; those that can are not in it. */
export async function saleFaults(almanac: Almanac, plans: readonly PlanView[]): Promise<Map<string, string>> {
  const accounts = (await almanac.gateways.connected()).filter(({ facts }) =>
    facts.abilities?.methods.some((way) => way === 'card' || way === 'bank debit'),
  );
  const faults = new Map<string, string>();
  for (const { id, rates, archivedOn } of plans) {
    const open = rates.filter((rate) => rate.archivedOn === null);
    // What is paid by invoice needs no gateway.
    const charged = open.filter(({ options }) => !options.methods.includes('invoice'));
    const lacking = charged.filter(({ terms, options }) =>
      accounts
        .filter(
          ({ id: account, facts }) =>
            facts.abilities.methods.some((way) => options.methods.some((one) => one === way)) &&
            (options.gateways.length === 0 || options.gateways.includes(account)),
        )
        .every((account) => cannotRenew(account, String(terms.currency)) !== null),
    );
    const currencies = [...new Set(lacking.map(({ terms }) => String(terms.currency)))];
    if (archivedOn !== null) faults.set(id, 'archived');
    else if (open.length === 0) faults.set(id, 'it has no rate');
    else if (charged.length === open.length && accounts.length === 0)
      faults.set(id, 'no gateway is connected');
    else if (lacking.length === open.length) faults.set(id, `no gateway charges ${currencies.join(', ')}`);
  }
  return faults;
}
