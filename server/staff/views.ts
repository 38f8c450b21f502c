import type { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { ListView, listViewSchema } from './viewMessages.ts';

/** So many views of one list somebody may save. */
const MOST_VIEWS = 40;

/** The views that somebody has of a list, by name; the one without a name first. */
export function listViews({ db }: Almanac, personId: string, list: string): Promise<ListView[]> {
  return db.rows<ListView>(
    `select id::text, name, asked, columns from list_views
     where person_id = $personId and list = $list order by name, id`,
    { personId, list },
  );
}

/** Saves a view under its name, in place of the one that had it. */
export async function saveView(
  almanac: Almanac,
  personId: string,
  { list, name, asked, columns }: z.output<typeof listViewSchema>,
): Promise<ListView[]> {
  const { db } = almanac;
  const known = await listViews(almanac, personId, list);
  if (known.length >= MOST_VIEWS && !known.some((view) => view.name === name))
    throw new RefusedCommand(409, `At most ${MOST_VIEWS} views of a list: leave one out first.`, '/name');
  await db.rows(
    `insert into list_views (person_id, list, name, asked, columns) values ($personId, $list, $name, $asked::jsonb, $columns::jsonb)
     on conflict (person_id, list, name) do update set asked = excluded.asked, columns = excluded.columns`,
    { personId, list, name, asked: JSON.stringify(asked), columns: JSON.stringify(columns) },
  );
  return listViews(almanac, personId, list);
}

/** Forgets a view of one's own. */
export async function forgetView({ db }: Almanac, personId: string, id: string): Promise<void> {
  const gone = await db.row('delete from list_views where id = $id and person_id = $personId returning id', {
    id,
    personId,
  });
  if (!gone) throw new RefusedCommand(404, 'There is no such view.');
}
