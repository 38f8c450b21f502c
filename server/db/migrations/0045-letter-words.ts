import type { Migration } from '../migration.ts';

/**
 * The business's own words of letters: another letter of an event in a language, and what is added to it, for all rates or for one.
 * And the letters that a customer wants no more.
 */
export const up: Migration['up'] = async (sql) => {
  await sql(`
    create table letter_words (
      id bigint generated always as identity primary key,
      event text not null,
      language text not null,
      rate_id bigint references rates,
      -- Subject, paragraphs and what the link says; null: ours. Of one rate there are added words alone.
      letter jsonb check (letter is null or rate_id is null),
      added jsonb not null default '[]' check (jsonb_typeof(added) = 'array'),
      changed_by text not null,
      changed_at timestamptz not null default now(),
      unique nulls not distinct (event, language, rate_id)
    );
    alter table customers add stopped_letters text[] not null default '{}';
  `);
};
