import { z } from 'zod';
import type { ComingPayment } from './messages.ts';

const id = z.string().regex(/^\d{1,18}$/);
const from = z.enum(['now', 'renewal'], 'Choose from when.');
const quantity = z.int('Give a whole number.').min(1, 'At least 1.').max(1_000_000, 'At most 1,000,000.');

const day = z.iso.date('Give a day.');
const given = z.enum(['free', 'prorate'], 'Choose whether the days are free or paid for.');

/** What can be altered of a subscription that runs. */
export const alterationSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('cancel'),
    when: z.enum(['now', 'period end', 'after payments'], 'Choose when it ends.'),
    /** Of `after payments`: full prices charged in all. */
    payments: quantity.optional(),
  }),
  z.strictObject({ kind: z.literal('go on') }),
  z.strictObject({
    kind: z.literal('pause'),
    periods: z.int('Give a whole number.').min(1, 'At least 1.').max(24, 'At most 24 periods.'),
  }),
  z.strictObject({ kind: z.literal('pause until'), to: day, rest: given }),
  /** The next payment moves to another day. */
  z.strictObject({ kind: z.literal('date'), to: day, days: given }),
  z.strictObject({ kind: z.literal('quantity'), quantity, from }),
  z.strictObject({
    kind: z.literal('extra'),
    key: z.string().max(60),
    quantity: z.int('Give a whole number.').min(0).max(1_000_000),
    from,
  }),
  /** An extra line that is paid once. */
  z.strictObject({ kind: z.literal('once'), key: z.string().max(60), quantity, from }),
  /** An amount that no plan has: with the next invoice, or with one of its own at once. */
  z.strictObject({
    kind: z.literal('amount'),
    name: z.string().trim().min(1, 'Say what it is for.').max(200, 'At most 200 characters.'),
    amount: z
      .string()
      .trim()
      .regex(/^\d{1,12}(\.\d{1,4})?$/, 'Give an amount such as 15.00.'),
    from,
  }),
  z.strictObject({ kind: z.literal('variant'), variantId: id, from }),
  z.strictObject({ kind: z.literal('rate card'), cardId: id.nullable(), from }),
  z.strictObject({ kind: z.literal('code'), code: z.string().trim().min(1, 'Type the code.').max(40) }),
]);
export type AlterationMessage = z.output<typeof alterationSchema>;

/** One recurring line before and after, for one full period, minor units; null where it is not there. */
export interface LineBesides {
  readonly name: string;
  readonly before: string | null;
  readonly after: string | null;
}

/** A line of a settlement: what it says, and what it comes to, minor units; what comes back is negative. */
export interface SettledView {
  readonly says: string;
  readonly amount: string;
}

/** What a change is settled with: at once, or in the payment that comes next. */
export interface SettlementView {
  readonly dueOn: string;
  readonly lines: readonly SettledView[];
  /** With its tax; negative where it becomes credit. */
  readonly total: string;
  /** Whether the lines stand in the next payment, of which the total is that of these lines alone, without tax. */
  readonly carried: boolean;
}

/** The two ways in which days that are given or taken may be settled, with what each comes to. */
export interface WaysView {
  readonly free: WayView;
  readonly prorate: WayView;
}
export interface WayView {
  /** Minor units, with tax; negative where it becomes credit; null where nothing is charged or credited. */
  readonly amount: string | null;
  /** On which day, and which days it is for. */
  readonly on: string | null;
  readonly from: string | null;
  readonly to: string | null;
}

/** An invoice that was issued before its period begins, and is taken back by a credit note. Minor units. */
export interface TakenBackInvoice {
  readonly number: string;
  readonly total: string;
  /** What was paid of it, which becomes the customer's credit. */
  readonly toCredit: string;
}

/** What an alteration does: shown before it is done. */
export interface AlterationEffect {
  /** In words, as the audit and the letter say it. */
  readonly says: string;
  readonly currency: string;
  /** Its tax comes on top of the prices of its lines. */
  readonly withoutTax: boolean;
  /** Lines that come to something else, or all of them where prices were compared. */
  readonly lines: readonly LineBesides[];
  readonly before: readonly ComingPayment[];
  readonly after: readonly ComingPayment[];
  /** How what runs is settled, line by line; null where nothing is. */
  readonly settlement: SettlementView | null;
  /** Of a date that moves, or a rest that ends inside a period: what either way comes to. */
  readonly ways: WaysView | null;
  /** Credit that no payment to come will use up, minor units: it goes to the customer at the end. */
  readonly creditLeft: string;
  /** Invoices issued early that come out otherwise. */
  readonly takenBack: readonly TakenBackInvoice[];
  /** Whether they are issued anew in the same act. */
  readonly issuesAnew: boolean;
  readonly endsOn: string | null;
  /** The first day on which something is otherwise. */
  readonly effectiveOn: string;
}

/** Something that was agreed to and has not begun, or cannot be taken back any more. */
export interface PlannedChange {
  readonly id: string;
  readonly says: string;
  readonly madeOn: string;
  readonly madeBy: 'customer' | 'business' | 'rate';
  readonly effectiveOn: string;
  /** Why it cannot be taken back; null where it can. */
  readonly stays: string | null;
}
