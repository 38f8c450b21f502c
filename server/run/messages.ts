import { z } from 'zod';
import { toDay } from '../../core/dates/day.ts';
import type { Role } from '../staff/messages.ts';

export const turnSchema = z.strictObject({ to: z.iso.date('Give the day to turn to.') });

export interface TurnView {
  readonly state: 'turning' | 'waiting' | 'done';
  readonly from: string;
  readonly to: string;
  readonly says: string;
}

export interface BusinessView {
  readonly name: string;
  readonly homeCurrency: string;
  readonly practice: boolean;
  readonly businessDate: string;
  /** A BCP 47 tag: the language and country that figures and dates are typed in. */
  readonly locale: string;
  readonly turn: TurnView | null;
  /** Collecting that is stopped: of everybody until a day, and of so many customers. */
  readonly suspended: { readonly until: string | null; readonly customers: number };
  /** The day since which all letters to customers are held back; null: they go out. */
  readonly lettersHeldOn: string | null;
  /** Of whoever is signed in. */
  readonly role: Role;
  /** They have to turn on a second factor before anything else. */
  readonly wantsFactor: boolean;
}

/** So many days of the rail can be asked for at once: it is six weeks wide. */
export const MOST_RAIL_DAYS = 62;
export const railQuery = z
  .object({ from: z.iso.date(), to: z.iso.date() })
  .refine(({ from, to }) => toDay(to) - toDay(from) < MOST_RAIL_DAYS, {
    message: `At most ${MOST_RAIL_DAYS} days at once.`,
    path: ['to'],
  });

/** So many days can be summed at once. */
export const MOST_SPAN_DAYS = 400;
export const spanQuery = z
  .object({ from: z.iso.date(), until: z.iso.date() })
  .refine(({ from, until }) => until >= from, {
    message: 'Give a last day that is not before the first.',
    path: ['until'],
  })
  .refine(({ from, until }) => toDay(until) - toDay(from) < MOST_SPAN_DAYS, {
    message: `At most ${MOST_SPAN_DAYS} days at once.`,
    path: ['until'],
  });

/** What some days come to, by currency, in minor units. */
export interface Span {
  readonly from: string;
  readonly until: string;
  /** The last day whose planned charges are in it: what lies further ahead is not foreseen. Null where all are. */
  readonly foreseenUntil: string | null;
  readonly currencies: readonly {
    readonly currency: string;
    readonly collected: SpanSum;
    readonly declined: SpanSum;
    readonly planned: SpanSum;
  }[];
}

export interface SpanSum {
  readonly payments: number;
  readonly amount: string;
}

/** One day of the rail: how many payments were collected, failed and are planned, and the sums by currency. */
export interface RailDay {
  /** Whether what is planned is known: far ahead, with very many subscriptions, it is not. */
  readonly isForeseen: boolean;
  readonly date: string;
  readonly collected: number;
  readonly declined: number;
  readonly planned: number;
  readonly sums: readonly {
    readonly currency: string;
    readonly collected: string;
    readonly planned: string;
  }[];
}

export interface SheetMovement {
  readonly subscriptionId: string;
  readonly customer: string;
  readonly plan: string;
  readonly invoice: string;
  readonly amount: string;
  readonly currency: string;
}

export interface FailedMovement extends SheetMovement {
  readonly says: string;
  readonly next: string;
}

/** What one subscription is charged on a day, which may be several payments. */
export interface PlannedMovement extends SheetMovement {
  readonly payments: number;
  /** What hinders it, in words; null where nothing does. */
  readonly cannotCharge: string | null;
}

/** One part of a sheet: the first of its rows, how many payments there are in all, and what they come to by currency. */
export interface SheetPart<Row> {
  readonly rows: readonly Row[];
  /** Whether there are further rows. */
  readonly more: boolean;
  readonly total: number;
  readonly sums: readonly { readonly currency: string; readonly amount: string }[];
}

/** So many payments, and what they come to in minor units. */
export interface MoneySum {
  readonly payments: number;
  readonly amount: string;
}

/** What fell due, came in, failed and went back. */
export interface MovedMoney {
  readonly due: MoneySum;
  readonly done: MoneySum;
  readonly failed: MoneySum;
  readonly back: MoneySum;
}

/** The money of a day by currency and method, and what came in on the same day of the month before. */
export interface DayMoney {
  readonly monthBefore: string;
  readonly currencies: readonly (MovedMoney & {
    readonly currency: string;
    readonly before: MoneySum;
    readonly methods: readonly (MovedMoney & { readonly method: string })[];
  })[];
}

/** The parts of a sheet of which further rows can be asked for, page by page. */
export const SHEET_PARTS = ['collected', 'failed', 'planned', 'happened'] as const;
export const sheetPartQuery = z.object({ page: z.coerce.number().int().min(1).max(100_000).default(1) });

/** One business day: what came in, what failed and why, what needs a person, what comes. */
export interface DaySheet {
  readonly date: string;
  readonly isBusinessDay: boolean;
  readonly finished: boolean;
  /** Whether what is planned for it and the day after is known: far ahead, with very many subscriptions, it is not. */
  readonly isForeseen: boolean;
  /** How far a foresight that is being made anew has come; null when all is as it should be. */
  readonly foreseeing: { readonly done: number; readonly of: number } | null;
  readonly money: DayMoney;
  readonly collected: SheetPart<SheetMovement>;
  readonly failed: SheetPart<FailedMovement>;
  readonly planned: SheetPart<PlannedMovement>;
  readonly tomorrow: SheetPart<PlannedMovement> & { readonly date: string };
  /** Of the business day: what the banks have, by the day on which they answer, and what cardholders are to confirm before one. */
  readonly withBanks: readonly {
    readonly waitsFor: 'cardholder' | null;
    readonly expectedOn: string;
    readonly currency: string;
    readonly amount: string;
    readonly debits: number;
  }[];
  readonly needs: readonly {
    readonly id: string;
    readonly kind: string;
    readonly says: string;
    readonly arose: string;
    /** When somebody saw to it; null while it is open. */
    readonly settledOn: string | null;
    readonly customer: string | null;
    readonly customerId: string | null;
    readonly subscriptionId: string | null;
  }[];
  readonly happened: SheetPart<{
    readonly subscriptionId: string;
    readonly customer: string;
    readonly plan: string;
    readonly says: string;
  }>;
}

/** The days from one date to before another, and what happened on them. */
export const turnedQuery = z.object({ from: z.iso.date(), to: z.iso.date() });

export interface TurnedPages {
  readonly from: string;
  readonly to: string;
  /** By currency, minor units. */
  readonly sums: readonly {
    readonly currency: string;
    readonly collected: string;
    readonly inCount: number;
    readonly declined: string;
    readonly outCount: number;
  }[];
  readonly started: number;
  readonly ended: number;
  readonly lapsed: number;
  readonly recovered: number;
  readonly letters: number;
  readonly needs: number;
}
