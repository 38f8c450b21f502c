/** The anchor of a schedule: on which days its periods may start (the table of rules 2), or null. */
export type Anchor =
  | { readonly kind: 'day'; readonly day: number }
  | { readonly kind: 'month-day'; readonly month: number; readonly day: number }
  | { readonly kind: 'two-days'; readonly days: readonly [number, number] }
  | { readonly kind: 'weekday'; readonly weekday: number }
  | { readonly kind: 'nth'; readonly nth: 1 | 2 | 3 | 4 | 'last'; readonly weekday: number };
