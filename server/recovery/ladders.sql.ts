import type { Database } from '../db/database.ts';
import type { LadderVersion } from './ladderMessages.ts';

interface Use {
  readonly open: number;
  readonly older: number;
  readonly recovered: number;
  readonly givenUp: number;
}

/** How many cases climb each ladder, by the id of its first version. */
export async function ladderUse(db: Database): Promise<(id: string) => Use> {
  const rows = await db.rows<Use & { id: string }>(
    `select l.line_id::text as id, count(*) filter (where k.state = 'open')::int as open,
       count(*) filter (where k.state = 'open' and not l.is_current)::int as older,
       count(*) filter (where k.state = 'recovered')::int as recovered,
       count(*) filter (where k.state = 'given up')::int as "givenUp"
     from ladders l join recovery_cases k on k.ladder_id = l.id group by 1`,
  );
  const of = new Map(rows.map(({ id, ...use }) => [id, use]));
  return (id) => of.get(id) ?? { open: 0, older: 0, recovered: 0, givenUp: 0 };
}

/** The versions of a ladder, the newest first, and how many open cases climb each. */
export function ladderVersions(db: Database, id: string): Promise<LadderVersion[]> {
  return db.rows<LadderVersion>(
    `select l.id::text, l.version, l.made_on as "madeOn", l.made_by as "madeBy",
       (select count(*)::int from recovery_cases k where k.ladder_id = l.id and k.state = 'open') as open
     from ladders l where l.line_id = $id order by l.version desc`,
    { id },
  );
}
