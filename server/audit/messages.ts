/** One entry of the audit. `at` is an instant in UTC. */
export interface AuditRow {
  readonly id: string;
  readonly at: string;
  readonly who: string;
  readonly via: string;
  readonly address: string;
  readonly agent: string;
  readonly did: string;
  readonly subject: string;
  readonly before: unknown;
  readonly after: unknown;
}
