import { toDay } from '../../core/dates/day.ts';
import type { LawFacts } from '../../core/terms/law.ts';
import { monthlyValue } from '../../core/value/monthlyValue.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { cannotRenew } from '../gateways/abilities.ts';
import { PAGE_SIZE, type ListQuery, type Page } from '../http/list.ts';
import { LAW_COLUMNS, loadLaw } from '../subscriptions/law.ts';
import type { PlanRow, PlanView } from './messages.ts';
import { listPlans } from './plans.ts';

/** One page of the plans: what each brings a month, its subscribers by state, and whether it can be sold now. */
export async function listPlanRows(almanac: Almanac, query: ListQuery): Promise<Page<PlanRow>> {
  const plans = await listPlans(almanac, query, true);
  const [monthly, states, notSold] = await Promise.all([
    monthlyByPlan(almanac),
    statesByPlan(almanac),
    saleFaults(almanac, plans),
  ]);
  const rows = plans
    .map((plan): PlanRow => {
      const rates = plan.rates.filter(({ archivedOn }) => archivedOn === null);
      const more = rates.length > 1 ? `, and ${rates.length - 1} more` : '';
      return {
        id: plan.id,
        name: plan.name,
        kind: plan.kind,
        price: rates[0] ? `${rates[0].says}${more}` : '',
        states: states.get(plan.id) ?? {},
        subscribers: plan.subscribers,
        monthly: monthly.get(plan.id) ?? [],
        notSold: notSold.get(plan.id) ?? null,
        archived: plan.archivedOn !== null,
      };
    })
    .filter((row) => isAskedFor(row, query))
    .sort(orderOf(query.sort));
  const pages = Math.max(1, Math.ceil(rows.length / PAGE_SIZE));
  const page = Math.min(query.page, pages);
  return { rows: rows.slice((page - 1) * PAGE_SIZE, page * PAGE_SIZE), total: rows.length, page, pages };
}

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

async function monthlyByPlan(almanac: Almanac): Promise<Map<string, { currency: string; amount: string }[]>> {
  const running = await almanac.db.rows<LawFacts & { plan_id: string }>(
    `select r.plan_id::text, s.terms, ${LAW_COLUMNS}
     from subscriptions s join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id
     where s.state in ('active', 'overdue')`,
  );
  const law = await loadLaw(almanac);
  const today = toDay(await businessDateOf(almanac));
  const { homeCurrency: home } = await Business.findOne({ rejectOnEmpty: true });
  const sums = new Map<string, Map<string, bigint>>();
  for (const { plan_id, ...facts } of running) {
    const byCurrency = sums.get(plan_id) ?? new Map<string, bigint>();
    const { currency } = facts.terms;
    byCurrency.set(currency, (byCurrency.get(currency) ?? 0n) + monthlyValue(law.compile(facts), today));
    sums.set(plan_id, byCurrency);
  }
  return new Map(
    [...sums].map(([plan, byCurrency]) => [
      plan,
      [...byCurrency]
        .sort(([a], [b]) => Number(b === home) - Number(a === home) || a.localeCompare(b))
        .map(([currency, amount]) => ({ currency, amount: amount.toString() })),
    ]),
  );
}

async function statesByPlan(almanac: Almanac): Promise<Map<string, Record<string, number>>> {
  const rows = await almanac.db.rows<{ plan_id: string; state: string; n: number }>(
    `select r.plan_id::text, s.state, count(*)::int as n from subscriptions s join rates r on r.id = s.rate_id group by 1, 2`,
  );
  const states = new Map<string, Record<string, number>>();
  for (const { plan_id, state, n } of rows) states.set(plan_id, { ...states.get(plan_id), [state]: n });
  return states;
}

/** Why each plan cannot be sold now; those that can are not in it. */
export async function saleFaults(almanac: Almanac, plans: readonly PlanView[]): Promise<Map<string, string>> {
  const accounts = (await almanac.gateways.connected()).filter(({ facts }) =>
    facts.abilities?.methods.includes('card'),
  );
  const faults = new Map<string, string>();
  for (const { id, rates, archivedOn } of plans) {
    const open = rates.filter((rate) => rate.archivedOn === null);
    // What is paid by invoice needs no gateway.
    const byCard = open.filter(({ options }) => !options.methods.includes('invoice'));
    const lacking = byCard.filter(({ terms, options }) =>
      accounts
        .filter(({ id: account }) => options.gateways.length === 0 || options.gateways.includes(account))
        .every((account) => cannotRenew(account, String(terms.currency)) !== null),
    );
    const currencies = [...new Set(lacking.map(({ terms }) => String(terms.currency)))];
    if (archivedOn !== null) faults.set(id, 'archived');
    else if (open.length === 0) faults.set(id, 'it has no rate');
    else if (byCard.length === open.length && accounts.length === 0)
      faults.set(id, 'no gateway that takes cards is connected');
    else if (lacking.length === open.length) faults.set(id, `no gateway charges ${currencies.join(', ')}`);
  }
  return faults;
}
