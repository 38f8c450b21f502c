/* Terms as they are lived day by day: what of their documents is read here. */

export interface Line {
  readonly name?: string;
  readonly quantity?: number;
  readonly price: { readonly scheme: string; readonly amount?: string; readonly total?: string };
  readonly intro?: { readonly payments: number; readonly amount: string };
  readonly discounts?: readonly { percent?: string; amount?: string; payments?: number }[];
  readonly tax?: Tax;
}
export interface Tax {
  readonly rate: string;
  readonly mode: 'exclusive' | 'inclusive';
}
export interface Schedule {
  readonly interval: string;
  readonly on?: Record<string, unknown>;
  readonly stub?: string;
}
export interface Change {
  readonly date: string;
  readonly lines?: readonly Line[];
  readonly schedule?: Schedule;
  readonly next?: string;
  readonly nextStub?: string;
  readonly ends?: Ends | null;
  readonly settle?: string;
}
export interface Ends {
  readonly after?: number;
  readonly until?: string;
}
export interface Document extends Partial<Schedule> {
  readonly currency: string;
  readonly starts: string;
  readonly lines?: readonly Line[];
  readonly once?: readonly { amount: string; date: string; tax?: Tax }[];
  readonly trial?: { readonly length: string; readonly amount?: string };
  readonly setup?: { readonly amount: string; readonly when?: string };
  readonly ends?: Ends;
  readonly endStub?: string;
  readonly tax?: Tax;
  readonly pauses?: readonly { from: string; to: string; resume?: string; rest?: string }[];
  readonly changes?: readonly Change[];
  readonly discounts?: readonly unknown[];
}

export interface DayByDayPayment {
  readonly kind: string;
  readonly from: string;
  readonly to: string;
  readonly lines: readonly string[];
  readonly total: string;
  readonly credit: string;
}
