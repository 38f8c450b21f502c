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

/** One day of the rail: how many payments were collected, failed and are planned, and the sums by currency. */
export interface RailDay {
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

/** One business day: what came in, what failed and why, what needs a person, what comes. */
export interface DaySheet {
  readonly date: string;
  readonly isBusinessDay: boolean;
  readonly finished: boolean;
  readonly collected: readonly SheetMovement[];
  readonly failed: readonly (SheetMovement & { readonly says: string; readonly next: string })[];
  readonly planned: readonly SheetMovement[];
  readonly tomorrow: { readonly date: string; readonly payments: readonly SheetMovement[] };
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
  readonly happened: readonly {
    readonly subscriptionId: string;
    readonly customer: string;
    readonly plan: string;
    readonly says: string;
  }[];
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
