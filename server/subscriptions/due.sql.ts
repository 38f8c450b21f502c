import { LAW_COLUMNS } from './law.ts';
import type { Transaction } from 'sequelize';
import type { WalkPosition } from '../../core/listing/walkPosition.ts';
import type { LawFacts } from '../../core/terms/law.ts';
import type { Almanac } from '../almanac.ts';
import { unnested } from '../db/unnested.ts';
import type { Foreseen } from '../../core/forecast/foresee.ts';
import { FORESEEN_COLUMNS, foreseenValues } from '../forecast/foresight.sql.ts';
import type { InvoiceField } from '../invoices/invoiceParts.ts';
import { inTurn, isOfSubscription } from '../customers/inTurn.ts';
import type { Place } from '../customers/placeMessages.ts';
import type { PaymentMethod } from '../customers/PaymentMethod.ts';
import type { OnInvoices } from '../settings/messages.ts';
import type { SubscriptionState, WithoutMethod } from './states.ts';

/** A subscription of which something is due, with all that bringing it up to a day needs to know. */
export interface DueSubscription extends LawFacts {
  readonly id: string;
  readonly customerId: string;
  readonly rateId: string;
  readonly walk: WalkPosition | null;
  readonly state: SubscriptionState;
  readonly startsOn: string;
  readonly trialEndsOn: string | null;
  readonly endsOn: string | null;
  readonly collects: 'automatic' | 'by hand';
  readonly invoicing: 'each' | 'whole';
  readonly issueBefore: number;
  readonly withoutMethod: WithoutMethod | null;
  readonly invoiceFields: readonly InvoiceField[];
  readonly account: string;
  readonly onInvoices: OnInvoices;
  readonly servedAt: Place | null;
  readonly ownMethodId: string | null;
  readonly methodState: PaymentMethod['state'] | null;
  readonly name: string;
  readonly organisation: string;
  readonly address: string;
  readonly taxNumber: string;
  /** Words of staff for the first letter; null: there is to be none. */
  readonly firstWords: string | null;
}

/** What is read of `subscriptions s` to bring them up to a day, and from where. */
const DUE = `select s.id::text, s.customer_id::text as "customerId", s.rate_id::text as "rateId", s.terms, s.walk, s.state,
       s.starts_on as "startsOn", s.trial_ends_on as "trialEndsOn", s.ends_on as "endsOn", s.collects, s.invoicing,
       s.issue_before as "issueBefore",
       s.without_method as "withoutMethod", s.invoice_fields as "invoiceFields",
       ${LAW_COLUMNS}, s.served_at as "servedAt",
       coalesce(v.options ->> 'account', '') as account, p.on_invoices as "onInvoices", m.state as "methodState", s.own_method_id::text as "ownMethodId",
       c.name, c.organisation, concat_ws(E'\\n', nullif(c.address, ''), nullif(c.postcode, '')) as address, c.tax_number as "taxNumber",
       case when coalesce(g.first_letter, true) then coalesce(g.first_words, '') end as "firstWords"
     from subscriptions s join customers c on c.id = s.customer_id
     join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
     left join agreements g on g.subscription_id = s.id
     left join rate_versions v on v.rate_id = s.rate_id and v.version = s.rate_version
     left join lateral (
       select m.state from payment_methods m where ${isOfSubscription('m', 's')}
       order by m.state = 'usable' desc, ${inTurn('m', 's')} limit 1) m on true`;

/**
 * Those of some subscriptions of which something is due up to a day, locked, in the order of enrolment. What was brought
 * up to the day meanwhile is not among them.
 */
export function lockDue(
  almanac: Almanac,
  ids: readonly string[],
  businessDate: string,
  within: Transaction,
): Promise<DueSubscription[]> {
  return almanac.db.rows<DueSubscription>(
    `${DUE} where s.id = any($ids::bigint[]) and s.wake_on <= $businessDate and s.state <> 'lapsed'
     order by s.id for update of s`,
    { ids, businessDate },
    within,
  );
}

/** A subscription as it would be brought up to a day, whether or not something of it is due; null: there is none. */
export function readDue({ db }: Almanac, id: string): Promise<DueSubscription | null> {
  return db.row<DueSubscription>(`${DUE} where s.id = $id`, { id });
}

/** How far subscriptions were brought, and when they are to be looked at again. */
export interface Reached {
  readonly id: string;
  readonly walk: WalkPosition | null;
  readonly wakeOn: string | null;
  readonly state: SubscriptionState;
  readonly currency: string;
  readonly foreseen: Foreseen;
}

/** Writes down how far subscriptions were brought; `stand.ts` says what state that is. */
export async function writeReached(
  almanac: Almanac,
  reached: readonly Reached[],
  within: Transaction,
): Promise<void> {
  if (reached.length === 0) return;
  const { table, bound } = unnested(
    { id: 'bigint', walk: 'jsonb', wake_on: 'date', state: 'text', ...FORESEEN_COLUMNS },
    reached.map(({ id, walk, wakeOn, state, foreseen }) => ({
      ...{ id, state, ...foreseenValues(foreseen) },
      walk: walk && JSON.stringify(walk),
      wake_on: wakeOn,
    })),
  );
  await almanac.db.rows(
    `update subscriptions s set walk = x.walk, wake_on = x.wake_on, state = x.state, held_on = null,
       next_on = x.next_on, next_amount = x.next_amount, monthly = x.monthly, foresee_on = x.foresee_on
     from ${table} where s.id = x.id`,
    bound,
    within,
  );
}
