import type { Migration } from '../migration.ts';

/** Letters that staff hold back, one by one or all; those they take back; and those they send once more. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table letters drop constraint letters_state_check;
    alter table letters add constraint letters_state_check
      check (state in ('queued', 'held', 'sent', 'undeliverable', 'taken back'));
    alter table letters add copy_of bigint references letters;
    drop index letters_queued;
    create index letters_queued on letters (id) where state in ('queued', 'held');
    create index letters_taken_back on letters (written_on, id) where state = 'taken back';
    create index letters_copies on letters (copy_of) where copy_of is not null;
    alter table business add letters_held_on date;
  `);
};
