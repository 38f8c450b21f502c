import type { Migration } from '../migration.ts';

/** Charges whose cardholder is to confirm them: they wait for that, and not for the banks. */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    alter table attempts add waits_for text check (waits_for = 'cardholder');
  `);
};
