import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { MethodKind, MethodRole, MethodView } from './methodMessages.ts';

export interface MethodRow {
  readonly id: string;
  readonly role: MethodRole;
  readonly state: MethodView['state'];
  readonly network: string;
  readonly lastFour: string;
  readonly expiresYear: number | null;
  readonly expiresMonth: number | null;
  readonly kind: MethodKind;
  readonly holder: string;
  readonly addedOn: string;
  readonly account: string;
  readonly connected: boolean;
  readonly checkedOn: string | null;
  readonly checkCode: string | null;
  readonly renewedOn: string | null;
  readonly mandate: MethodView['mandate'];
  readonly own: MethodView['own'];
}

/** All methods that a customer has or had, each with its latest mandate: those in use first, in their turn. */
export function methodsOf({ db }: Almanac, customerId: string): Promise<MethodRow[]> {
  return db.rows(
    `select m.id::text, m.role, m.state, m.kind, m.holder, m.network, m.last_four as "lastFour", m.expires_year as "expiresYear",
       m.expires_month as "expiresMonth", m.added_on as "addedOn", g.name as account, g.disconnected_on is null as connected,
       m.checked_on as "checkedOn", m.check_code as "checkCode", m.renewed_on as "renewedOn",
       (select json_build_object('channel', d.channel, 'givenOn', d.given_on, 'agreedText', d.agreed_text,
          'address', d.address, 'withdrawnOn', d.withdrawn_on, 'withdrawnBy', d.withdrawn_by)
        from mandates d where d.payment_method_id = m.id order by d.id desc limit 1) as mandate,
       coalesce((select json_agg(json_build_object('id', s.id::text, 'plan', p.name) order by s.id)
        from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
        where s.own_method_id = m.id and s.state not in ('lapsed', 'ended')), '[]') as own
     from payment_methods m join gateway_accounts g on g.id = m.gateway_account_id
     where m.customer_id = $customerId and m.kind <> 'online transfer'
     order by m.state = 'replaced', array_position(array['primary', 'fallback', 'own'], m.role), m.id desc`,
    { customerId },
  );
}

/** A subscription that is charged by itself, with its plan. */
export interface ChargedSubscription {
  readonly id: string;
  readonly plan: string;
  readonly ownMethodId: string | null;
}

/** What runs of a customer and is charged by itself, oldest first. */
export function chargedOf(
  { db }: Almanac,
  customerId: string,
  within?: Transaction,
): Promise<ChargedSubscription[]> {
  return db.rows(
    `select s.id::text, p.name as plan, s.own_method_id::text as "ownMethodId"
     from subscriptions s join rates r on r.id = s.rate_id join plans p on p.id = r.plan_id
     where s.customer_id = $customerId and s.collects = 'automatic' and s.state not in ('lapsed', 'ended') order by s.id`,
    { customerId },
    within,
  );
}

/** How many charges of a method have no outcome yet. */
export async function underWayOn({ db }: Almanac, methodId: string, within?: Transaction): Promise<number> {
  const row = await db.row<{ n: number }>(
    `select count(*)::int as n from attempts where payment_method_id = $methodId and state = 'under way' and sent_at is not null`,
    { methodId },
    within,
  );
  return row?.n ?? 0;
}
