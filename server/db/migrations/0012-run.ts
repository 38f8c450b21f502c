import type { Migration } from '../migration.ts';

/**
 * The run in batches: claims that lapse, books that begin with every invoice and payment, letters kept as what they say
 * rather than as what they look like, and the parties of an invoice written down once for all of theirs.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table run_batches (
      id bigint generated always as identity primary key,
      business_date date not null,
      step text not null,
      place int not null,
      items text[] not null,
      claimed_by text,
      claimed_until timestamptz,
      done boolean not null default false,
      unique (business_date, step, place)
    );
    alter table days add step int not null default 0;
    alter table recovery_cases add retry_at timestamptz;
    drop index attempts_under_way;
    create index attempts_under_way on attempts (invoice_id) where state = 'under way';
    create index subscriptions_in_trial on subscriptions (trial_ends_on) where state = 'trial';
    create index subscriptions_without_method on subscriptions (trial_ends_on) where without_method is not null;

    alter table letters alter html drop not null, alter plain drop not null,
      add form_id int, add look_id int, add fields jsonb,
      add tries int not null default 0, add send_after timestamptz, add claimed_until timestamptz,
      add check ((fields is null) = (html is not null));
    alter table staff_letters
      add tries int not null default 0, add send_after timestamptz, add claimed_until timestamptz;
    create table letter_forms (
      id int generated always as identity primary key,
      hash bytea not null unique,
      event text not null,
      language text not null,
      layout int not null,
      form jsonb not null
    );
    create table letter_looks (
      id int generated always as identity primary key,
      hash bytea not null unique,
      look jsonb not null
    );
    alter table letters add foreign key (form_id) references letter_forms,
      add foreign key (look_id) references letter_looks;
  `);
  await sql(`
    create table invoice_parties (
      id bigint generated always as identity primary key,
      hash bytea not null unique,
      parties jsonb not null
    );
    insert into invoice_parties (hash, parties)
      select distinct on (decode(md5(seller::text), 'hex')) decode(md5(seller::text), 'hex'), seller from invoices;
    alter table invoices add parties_id bigint references invoice_parties;
    update invoices i set parties_id = p.id from invoice_parties p where p.hash = decode(md5(i.seller::text), 'hex');
    alter table invoices alter parties_id set not null, drop seller,
      add document text not null default 'invoice' check (document in ('invoice'));
  `);
  await beginBooks(sql);
};

/** The journal, and an entry of it for every invoice, payment and write-off there is. */
async function beginBooks(sql: Parameters<Migration['up']>[0]): Promise<void> {
  await sql(`
    create table accounts (
      id int generated always as identity primary key,
      kind text not null check (kind in ('receivable', 'clearing', 'sales', 'tax', 'credit', 'written off')),
      code text not null,
      name text not null,
      unique (kind, code)
    );
    insert into accounts (kind, code, name) values
      ('receivable', '', 'Receivables'), ('clearing', '', 'Gateway clearing'), ('sales', '', 'Sales'),
      ('tax', '', 'Tax'), ('credit', '', 'Credit of customers'), ('written off', '', 'Written off');

    create function sum_of(amounts bigint[]) returns numeric language sql immutable strict parallel safe
      return (select coalesce(sum(amount), 0) from unnest(amounts) as amount);
    create table journal (
      id bigint generated always as identity primary key,
      posted_on date not null,
      event text not null check (event in ('invoice issued', 'collected', 'written off')),
      currency char(3) not null,
      invoice_id bigint not null references invoices,
      payment_id bigint unique references payments,
      accounts int[] not null,
      amounts bigint[] not null,
      check (cardinality(accounts) = cardinality(amounts) and cardinality(accounts) > 1 and sum_of(amounts) = 0),
      check ((event = 'collected') = (payment_id is not null))
    );
    create unique index journal_once on journal (invoice_id, event) where payment_id is null;
    create function keep_journal() returns trigger language plpgsql as $body$
      begin raise exception 'What is posted stays: post what takes it back.'; end $body$;
    create trigger journal_stays before update or delete on journal for each statement execute function keep_journal();
    create view journal_lines as
      select j.id as entry_id, j.posted_on, j.event, j.currency, j.invoice_id, j.payment_id, l.account_id, l.amount
      from journal j cross join lateral unnest(j.accounts, j.amounts) as l (account_id, amount);
  `);
  await sql(`
    insert into accounts (kind, code, name)
      select distinct 'sales', account, account from invoices where account <> '' on conflict do nothing;
    insert into journal (posted_on, event, currency, invoice_id, accounts, amounts)
      select i.issued_on, 'invoice issued', i.currency, i.id,
        array[r.id, c.id, s.id, t.id], array[greatest(i.total, 0) - i.credit_used, least(i.total, 0) + i.credit_used, -i.net, -i.tax]
      from invoices i
      join accounts r on r.kind = 'receivable' join accounts c on c.kind = 'credit' join accounts t on t.kind = 'tax'
      join accounts s on s.kind = 'sales' and s.code = i.account
      where i.total <> 0 order by i.id;
    insert into journal (posted_on, event, currency, invoice_id, payment_id, accounts, amounts)
      select p.paid_on, 'collected', p.currency, p.invoice_id, p.id, array[c.id, r.id], array[p.amount, -p.amount]
      from payments p join accounts r on r.kind = 'receivable' join accounts c on c.kind = 'clearing' order by p.id;
    insert into journal (posted_on, event, currency, invoice_id, accounts, amounts)
      select coalesce(k.closed_on, i.due_on), 'written off', i.currency, i.id, array[w.id, r.id],
        array[greatest(i.total, 0) - i.credit_used - i.collected, i.credit_used + i.collected - greatest(i.total, 0)]
      from invoices i left join recovery_cases k on k.id = i.case_id
      join accounts r on r.kind = 'receivable' join accounts w on w.kind = 'written off'
      where i.state = 'written off' and greatest(i.total, 0) <> i.credit_used + i.collected order by i.id;
  `);
}
