import type { Migration } from '../migration.ts';

/**
 * An attempt keeps the very request that is sent under its key, the account that it is sent to, and when it was first
 * sent, so that what was ever sent is asked for before anything is concluded; and the rung that it was made for.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table attempts
      add gateway_account_id bigint references gateway_accounts,
      add request jsonb,
      add sent_at timestamptz,
      add case_id bigint references recovery_cases,
      add rung int;
    alter table attempts drop constraint attempts_state_check;
    alter table attempts add constraint attempts_state_check
      check (state in ('pending', 'collected', 'declined', 'refused', 'withdrawn'));
    update attempts a set gateway_account_id = m.gateway_account_id
      from payment_methods m where m.id = a.payment_method_id;
    -- What is under way may have been sent; it was sent with the statement text of its plan or of the business.
    update attempts a set sent_at = now(), request = jsonb_build_object(
        'token', m.gateway_token, 'amount', a.amount::text, 'currency', i.currency,
        'statementText', coalesce(p.statement_text, b.statement_text),
        'reference', 'invoice ' || i.prefix || i.number, 'channel', a.channel, 'businessDate', a.attempted_on)
      from payment_methods m, invoices i, subscriptions s, rates r, plans p, business b
      where a.state = 'pending' and m.id = a.payment_method_id and i.id = a.invoice_id and s.id = i.subscription_id
        and r.id = s.rate_id and p.id = r.plan_id;
    alter table attempts alter gateway_account_id set not null;
    alter table attempts add check (state <> 'pending' or request is not null);
    create index attempts_pending on attempts (id) where state = 'pending';
    create index attempts_by_case on attempts (case_id, rung) where case_id is not null;

    -- The day an account's facts are of, by the gateway's own word; what was told before is not taken any more.
    alter table gateway_accounts add facts_at timestamptz;
    drop table webhooks_received;
    create table webhooks_received (
      account_id bigint not null references gateway_accounts,
      webhook_id text not null,
      received_at timestamptz not null default now(),
      primary key (account_id, webhook_id)
    );
    -- Who works on the queue, and when that was last heard of.
    create table workers (worker_id text primary key, seen_at timestamptz not null default now());
    create index webhooks_received_by_time on webhooks_received (received_at);
  `);
  await sql(`
    create index invoices_by_subscription on invoices (subscription_id);
    create index letters_by_subscription on letters (subscription_id) where subscription_id is not null;
    create index letters_by_case on letters (case_id) where case_id is not null;
    create index letters_queued on letters (id) where state = 'queued';
    create index staff_letters_queued on staff_letters (id) where state = 'queued';
    create index subscriptions_by_end on subscriptions (ends_on) where ends_on is not null and state not in ('lapsed', 'ended');
    create index subscriptions_by_trial_end on subscriptions (trial_ends_on) where trial_ends_on is not null;
    create index subscriptions_by_start on subscriptions (starts_on);
    create index subscriptions_by_close on subscriptions (closed_on) where closed_on is not null;
    create index subscriptions_by_rate on subscriptions (rate_id);
    create index recovery_cases_by_rung on recovery_cases (next_rung_on) where state = 'open';
    create index recovery_cases_by_retry on recovery_cases (retry_on) where state = 'open' and retry_on is not null;
    create index recovery_cases_by_subscription on recovery_cases (subscription_id);
    create index subscription_moves_by_subscription on subscription_moves (subscription_id, effective_on);
    create index customer_links_by_subscription on customer_links (subscription_id);
    create index customer_links_by_customer on customer_links (customer_id);
    create index mandates_by_method on mandates (payment_method_id);
    create index needs_open on needs (arose_on) where settled_on is null;
    create index needs_by_subscription on needs (subscription_id) where subscription_id is not null;
  `);
};
