import type { Migration } from '../migration.ts';

/**
 * A variant may offer some of its plan's rates alone. Of a rate there is one switch for how it is paid: what was charged
 * to a card by hand is paid by invoice.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`alter table variants add rates jsonb not null default '[]'`);
  const paid = `options = case options ->> 'collects'
      when 'by hand' then options - 'collects' || '{"methods": ["invoice"]}' else options - 'collects' end`;
  await sql(`
    update rates set ${paid} where options ? 'collects';
    alter table rate_versions disable trigger rate_versions_stay;
    update rate_versions set ${paid} where options ? 'collects';
    alter table rate_versions enable trigger rate_versions_stay;
  `);
};
