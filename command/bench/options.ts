/** What `almanac bench run` and `bench faults` can be told. */
export interface BenchOptions {
  readonly quick?: boolean;
  readonly json?: boolean;
  readonly seeds: string;
  readonly from: string;
}
