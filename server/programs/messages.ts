import { z } from 'zod';

/** What a key may be used for. */
export const SCOPES = {
  'plans.read': 'see plans and rates',
  'plans.write': 'make plans',
  'customers.read': 'see customers',
  'customers.write': 'make customers',
  'subscriptions.read': 'see subscriptions and what they will charge',
  'subscriptions.write': 'enrol customers',
  'invoices.read': 'see invoices and payments',
} as const;
export type Scope = keyof typeof SCOPES;
const scopes = Object.keys(SCOPES) as [Scope, ...Scope[]];

export const newKeySchema = z.strictObject({
  name: z.string().trim().min(1, 'Name the program it is for.').max(80, 'A name has at most 80 characters.'),
  scopes: z.array(z.enum(scopes)).min(1, 'Choose at least one scope.'),
  expiresOn: z.iso.date('Give a day, or leave it empty.').nullable(),
});

export interface KeyView {
  readonly id: string;
  readonly name: string;
  readonly startsWith: string;
  readonly scopes: readonly Scope[];
  readonly madeBy: string;
  readonly madeAt: string;
  readonly expiresOn: string | null;
  readonly usedAt: string | null;
  readonly revokedAt: string | null;
}
