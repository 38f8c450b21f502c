/** Runs a statement, whose `$1`, `$2` … stand for the values bound to it, and gives its rows. */
export type MigrationSql = (
  statement: string,
  bound?: readonly (string | number | null)[],
) => Promise<readonly Record<string, unknown>[]>;

/** A forward step of the database's structure. Written in SQL, since constraints are half of what it says. */
export interface Migration {
  readonly up: (sql: MigrationSql) => Promise<void>;
}
