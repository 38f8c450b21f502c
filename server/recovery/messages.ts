import { z } from 'zod';
import { listQuery } from '../http/list.ts';
import type { ClosedHow } from './closedHow.ts';

/** What cases are filtered by, beside their state: why they were opened. */
export const CASE_KINDS = {
  wait: 'No money, or no reason given',
  soon: 'The bank was away',
  ask: 'The card must be mended',
  never: 'Lost, stolen or withdrawn',
  debit: 'A debit that came back',
  'by hand': 'Late, paid by hand',
} as const;

const id = z.string().regex(/^\d{1,18}$/);

export const caseQuery = listQuery.extend({
  id: id.optional(),
  plan: id.or(z.literal('')).default(''),
  /** Who looks after it: an id, 'nobody', or empty for all. */
  person: id.or(z.enum(['nobody', ''])).default(''),
  ladder: id.or(z.literal('')).default(''),
  /** Owed at least, in minor units of the business's currency: those of other currencies are left out. */
  least: z
    .string()
    .regex(/^\d{0,15}$/)
    .default(''),
});
export type CaseQuery = z.output<typeof caseQuery>;

export type CaseState = 'open' | 'recovered' | 'given up';

export interface CaseRow {
  readonly id: string;
  readonly state: CaseState;
  readonly openedOn: string;
  readonly closedOn: string | null;
  readonly closedHow: ClosedHow | null;
  readonly subscriptionId: string;
  readonly customerId: string;
  readonly customer: string;
  readonly plan: string;
  readonly ladder: string;
  readonly owed: string;
  readonly currency: string;
  readonly why: string;
  /** The next step, when it comes, and how far the case has climbed, of how many rungs. */
  readonly next: string;
  readonly nextOn: string | null;
  readonly rung: number;
  readonly rungs: number;
  readonly attempts: number;
  readonly letters: number;
  /** Who looks after it. */
  readonly assignedTo: string | null;
  readonly assigned: string | null;
  readonly asideUntil: string | null;
  readonly serviceStoppedOn: string | null;
  /** How likely it is recovered before its ladder ends, 0 to 1, by the model of what-if; null where none is said. */
  readonly chance: number | null;
  readonly says: string;
}

/** What happened to a case, or is to come of it. */
export interface CaseMoment {
  readonly on: string;
  readonly kind:
    | 'opened'
    | 'collected'
    | 'declined'
    | 'under way'
    | 'letter'
    | 'rung'
    | 'visit'
    | 'note'
    | 'call'
    | 'card'
    | 'message'
    | 'closed';
  readonly says: string;
  /** More of it: why a charge was declined, what a note says. */
  readonly beside: string;
  readonly by: string;
  readonly to: string | null;
  readonly isToCome: boolean;
}

export interface CaseDetail extends CaseRow {
  readonly ladderId: string;
  readonly ladderVersion: number;
  /** Its ladder has a newer version than the one that it climbs. */
  readonly hasNewer: boolean;
  readonly collects: 'automatic' | 'by hand';
  readonly invoices: readonly { readonly id: string; readonly number: string; readonly owed: string }[];
  readonly moments: readonly CaseMoment[];
}

const date = z.iso.date('Give a day.');
const says = (most: number) =>
  z.string().trim().min(1, 'Write something.').max(most, `At most ${most} characters.`);

/** What staff do with one case, or with several at once. */
export const caseActSchema = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('try') }),
  z.strictObject({ do: z.literal('set aside'), until: date.nullable() }),
  z.strictObject({ do: z.literal('assign'), to: id.nullable() }),
  z.strictObject({ do: z.literal('give up') }),
  z.strictObject({ do: z.literal('climb by'), ladder: id }),
  z.strictObject({ do: z.literal('write'), says: says(4_000) }),
]);
export type CaseAct = z.output<typeof caseActSchema>;

export const caseActsSchema = z.strictObject({
  ids: z.array(id).min(1, 'Choose a case.').max(500, 'At most 500 cases at once.'),
  act: caseActSchema,
});
export const caseNoteSchema = z.strictObject({ kind: z.enum(['note', 'call']), says: says(4_000) });

/** What an act would do to a case, or did: in words, or why it cannot be. */
export interface CaseEffect {
  readonly id: string;
  readonly customer: string;
  readonly owed: string;
  readonly currency: string;
  readonly says: string;
  /** Why it is not done to this one; null: it is. */
  readonly refused: string | null;
}

/** A debt that is charged at once when a new card is given, or when the customer pays. */
export interface Debt {
  readonly id: string;
  readonly number: string;
  readonly dueOn: string;
  /** Minor units of the currency. */
  readonly owed: string;
  readonly currency: string;
  /** It is being collected: the banks have it, or an answer is waited for. It is not charged a second time. */
  readonly underWay: boolean;
  /** Its cardholder is asked to confirm the charge, by the end of this day; null: nobody is. */
  readonly confirmBy: string | null;
}
