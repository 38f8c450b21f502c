/** What `almanac bench run` and `bench faults` can be told. */
export interface BenchOptions {
  readonly quick?: boolean;
  readonly json?: boolean;
  /** Of `lists`: so many subscriptions, in place of the usual number. */
  readonly of?: string;
  readonly seeds: string;
  readonly from: string;
}
