/** One thing that is missing, or all is well with, before money can move. */
export interface ReadinessLine {
  readonly key: string;
  /** Nothing can be charged while this is so. */
  readonly blocks: boolean;
  /** What is missing, in a few words. */
  readonly says: string;
  /** What comes of it if it stays so. */
  readonly why: string;
  /** What mends it: by one click here, or in a place of its own. */
  readonly mends: readonly Mend[];
}

export type Mend =
  | { readonly kind: 'here'; readonly says: string; readonly mend: string }
  | { readonly kind: 'hand-over'; readonly says: string }
  | { readonly kind: 'there'; readonly says: string; readonly path: string };

export interface Readiness {
  readonly canMoveMoney: boolean;
  readonly lines: readonly ReadinessLine[];
  /** What was looked at and is in order, in a few words each. */
  readonly inOrder: readonly string[];
}
