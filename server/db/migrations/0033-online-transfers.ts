import type { Migration } from '../migration.ts';

/**
 * What somebody paid with at the gateway's own page, one payment at a time: it stands with its attempts and receipts, is kept
 * nowhere to be charged, and is never in use.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table payment_methods drop constraint payment_methods_kind_check, drop constraint only_cards_expire;
    alter table payment_methods
      add check (kind in ('card', 'bank account', 'online transfer')),
      add constraint only_cards_expire check ((kind = 'card') = (expires_year is not null and expires_month is not null)),
      add constraint transfers_are_not_kept check (kind <> 'online transfer' or state = 'replaced');
  `);
};
