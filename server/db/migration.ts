/** A forward step of the database's structure. Written in SQL, since constraints are half of what it says. */
export interface Migration {
  readonly up: (sql: (statement: string) => Promise<unknown>) => Promise<void>;
}
