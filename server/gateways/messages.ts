import { z } from 'zod';
import type { AccountFacts } from './facts.ts';

export const pastedKeySchema = z.strictObject({
  key: z
    .string()
    .trim()
    .min(16, 'A key has at least 16 characters.')
    .max(500, 'A key has at most 500 characters.'),
});
export const handOverSchema = z.strictObject({
  state: z.string().min(20).max(200),
  code: z.string().min(8).max(500),
});
export const versionSchema = z.strictObject({ version: z.int().min(0) });

export interface GatewayAccountView {
  readonly id: string;
  readonly account: string;
  readonly name: string;
  readonly kind: string;
  readonly address: string;
  readonly connectedBy: string;
  readonly connectedOn: string;
  readonly disconnectedOn: string | null;
  readonly facts: AccountFacts;
  readonly askedAt: string;
  readonly well: boolean;
  readonly health: string;
  readonly wellSince: string;
  readonly version: number;
  /** New cards are given to this one. */
  readonly takesNewCards: boolean;
  readonly earlierSecretUntil: string | null;
  readonly cards: number;
  readonly readerPage: string | null;
  readonly gatewayPage: string;
}

export interface WhatStops {
  readonly cards: number;
  readonly subscriptions: number;
  readonly rates: readonly string[];
}
