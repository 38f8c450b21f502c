/** One thing that must always be true, and every place where it is not. */
export interface Finding {
  readonly rule: string;
  readonly breaches: readonly string[];
}
