import { z } from 'zod';

export const ROLES = ['owner', 'biller', 'reader'] as const;
export type Role = (typeof ROLES)[number];

/** What each role may do, in plain words. */
export const SAY_ROLE: Readonly<Record<Role, string>> = {
  owner: 'everything: Setup, people and keys too',
  biller: 'plans, customers, charges and recovery; Setup only to look at',
  reader: 'look at everything but Setup, change nothing',
};

export const SHORTEST_PASSWORD = 12;
export const passwordSchema = z
  .string()
  .min(SHORTEST_PASSWORD, `A password has at least ${SHORTEST_PASSWORD} characters.`)
  .max(200, 'A password has at most 200 characters.');
const name = z.string().trim().min(1, 'Give a name.').max(120, 'A name has at most 120 characters.');
const email = z.email('Give an e-mail address, such as ada@post.example.').max(254);
const token = z.string().min(20).max(200);
const role = z.enum(ROLES, 'Choose a role.');

export const signInSchema = z.strictObject({
  email: z.string().trim().min(1, 'Give your e-mail address.').max(254),
  password: z.string().min(1, 'Give your password.').max(200),
  /** Of the second factor, or a recovery code; asked for when the password was right. */
  code: z.string().trim().max(40).default(''),
});
export const newOwnerSchema = z.strictObject({ token, name, email, password: passwordSchema });
export const acceptSchema = z.strictObject({ token, name, password: passwordSchema });
export const invitationSchema = z.strictObject({ name, email, role });
export const personSchema = z.strictObject({
  version: z.int().min(0),
  value: z.strictObject({ name, role }),
});
export const newPasswordSchema = z.strictObject({ current: z.string().max(200), next: passwordSchema });
export const codeSchema = z.strictObject({
  code: z.string().trim().min(1, 'Give the code of six digits.').max(40),
});
/** What one proves inside of a session who one is with; the code is asked for where the second factor is on. */
export const againSchema = z.strictObject({
  password: z.string().max(200),
  code: z.string().trim().max(40).default(''),
});

/** What staff can be told of by mail, each at once, in one letter a day, or not at all. */
export const NOTICE_KINDS = {
  'payment failed': 'A payment failed',
  'payment collected': 'A payment was collected',
  enrolled: 'Somebody was enrolled',
  'mandate granted': 'A mandate was granted',
  'mandate revoked': 'A mandate was withdrawn',
  'subscription lapsed': 'A subscription lapsed',
  'rung climbed': 'A recovery case comes to a rung that tells staff',
  dispute: 'A payment is disputed, with the day by which to answer',
  'customer wrote': 'A customer wrote',
  'cards tried': 'Cards are being tried on a sign-up page',
  'gateway down': 'A gateway does not answer, or answers again',
  'payout arrived': 'A payout is on its way to the bank',
} as const;
export type NoticeKind = keyof typeof NOTICE_KINDS;
export const DELIVERIES = ['at once', 'daily', 'off'] as const;
export type Delivery = (typeof DELIVERIES)[number];

const kinds = Object.keys(NOTICE_KINDS) as [NoticeKind, ...NoticeKind[]];
export const noticesSchema = z.strictObject({
  version: z.int().min(0),
  value: z.record(z.enum(kinds), z.enum(DELIVERIES, 'Choose how.')),
});

/** What somebody is told who has chosen nothing. */
export function usualDelivery(role: Role, kind: NoticeKind): Delivery {
  if (role === 'reader') return 'off';
  const urgent: readonly NoticeKind[] = [
    'payment failed',
    'subscription lapsed',
    'rung climbed',
    'dispute',
    'customer wrote',
    'gateway down',
    'cards tried',
  ];
  return urgent.includes(kind) ? 'at once' : 'daily';
}

export interface PersonView {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  readonly secondFactor: boolean;
  readonly hasPassword: boolean;
  readonly version: number;
  readonly seenAt: string | null;
}

export interface InvitationView {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  readonly invitedBy: string;
  readonly expiresAt: string;
}

export interface SessionView {
  readonly id: string;
  readonly personId: string;
  readonly person: string;
  readonly address: string;
  readonly agent: string;
  readonly createdAt: string;
  readonly seenAt: string;
  readonly isThis: boolean;
}

export interface Me extends PersonView {
  readonly notices: Readonly<Record<NoticeKind, Delivery>>;
  readonly recoveryCodesLeft: number;
  readonly sessions: readonly SessionView[];
}
