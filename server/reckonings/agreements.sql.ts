import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { unnested } from '../db/unnested.ts';
import type { AgreementView } from './agreementMessages.ts';

/** How something was agreed to. */
export interface Agreement {
  readonly channel: AgreementView['channel'];
  readonly on: string;
  /** Who of the staff, which program or file; of customers themselves their own name. */
  readonly by: string;
  /** The version of the terms of service in force, where there is one. */
  readonly policyId: string | null;
  /** The sign-up page that it was agreed to on, and every policy that was. */
  readonly page?: { readonly id: string; readonly version: number };
  readonly policyIds?: readonly string[];
  /** From where, and with which program; absent: of whoever asks now. */
  readonly address?: string;
  readonly agent?: string;
}

/** Writes down what was agreed to, with from where it was. */
export async function insertAgreements(
  { db }: Almanac,
  agreed: readonly {
    readonly subscriptionId: string;
    readonly reckoningId: string | null;
    readonly noTaxBecause: string;
    readonly firstWords: string;
    readonly firstLetter: boolean;
    readonly asksTerms: boolean;
    readonly agreement: Agreement | null;
  }[],
  within: Transaction,
): Promise<void> {
  if (agreed.length === 0) return;
  const asker = askerNow();
  const { table, bound } = unnested(
    {
      ...{ subscription_id: 'bigint', reckoning_id: 'bigint', no_tax_because: 'text' },
      ...{ first_words: 'text', first_letter: 'boolean', asks_terms: 'boolean' },
      ...{ channel: 'text', agreed_on: 'date', agreed_by: 'text', address: 'text', agent: 'text' },
      ...{ policy_id: 'bigint', page_id: 'bigint', page_version: 'int' },
    },
    agreed.map(({ agreement, ...one }) => ({
      subscription_id: one.subscriptionId,
      reckoning_id: one.reckoningId,
      no_tax_because: one.noTaxBecause,
      ...{ first_words: one.firstWords, first_letter: one.firstLetter, asks_terms: one.asksTerms },
      ...{ channel: agreement?.channel ?? 'import', agreed_on: agreement?.on ?? null },
      ...{ agreed_by: agreement?.by ?? '', policy_id: agreement?.policyId ?? null },
      address: agreement?.address ?? asker.address,
      agent: (agreement?.agent ?? asker.agent).slice(0, 300),
      ...{ page_id: agreement?.page?.id ?? null, page_version: agreement?.page?.version ?? null },
    })),
  );
  await db.rows(
    `insert into agreements (subscription_id, channel, agreed_on, agreed_by, address, agent, policy_id, reckoning_id, no_tax_because,
       first_words, first_letter, asks_terms, page_id, page_version)
     select subscription_id, channel, agreed_on, agreed_by, address, agent, policy_id, reckoning_id, no_tax_because, first_words,
       first_letter, asks_terms, page_id, page_version
     from ${table}`,
    bound,
    within,
  );
  const policies = agreed.flatMap(({ subscriptionId, agreement }) =>
    (agreement?.policyIds ?? []).map((id) => ({ subscription_id: subscriptionId, policy_id: id })),
  );
  if (policies.length === 0) return;
  const { table: agreedTo, bound: their } = unnested(
    { subscription_id: 'bigint', policy_id: 'bigint' },
    policies,
  );
  await db.rows(
    `insert into agreed_policies (subscription_id, policy_id) select subscription_id, policy_id from ${agreedTo}`,
    their,
    within,
  );
}

/** What was agreed to when a subscription began; null where it began before that was kept. */
export function agreementOf({ db }: Almanac, subscriptionId: string): Promise<AgreementView | null> {
  return db.row<AgreementView>(
    `select a.channel, a.agreed_on as "on", a.agreed_by as "by", p.version as "termsVersion",
       case when s.id is not null then json_build_object('id', s.id::text, 'version', a.page_version, 'from', a.address, 'title',
         coalesce(s.value -> 'texts' -> (s.value ->> 'language') ->> 'title', s.key)) end as page,
       (select coalesce(json_agg(json_build_object('kind', o.kind, 'version', o.version) order by o.kind), '[]')
        from agreed_policies g join policies o on o.id = g.policy_id where g.subscription_id = a.subscription_id) as policies,
       a.no_tax_because as "noTaxBecause", k.says, coalesce(k.dues, '[]') as dues, a.asks_terms as "asksTerms",
       case when q.id is not null then json_build_object('on', a.terms_agreed_on, 'version', q.version, 'from', a.terms_address) end as "termsAgreed"
     from agreements a left join policies p on p.id = a.policy_id left join policies q on q.id = a.terms_policy_id left join reckonings k on k.id = a.reckoning_id
       left join sign_up_pages s on s.id = a.page_id
     where a.subscription_id = $subscriptionId`,
    { subscriptionId },
  );
}
