import { randomBytes } from 'node:crypto';
import type { Express, Response } from 'express';
import { z } from 'zod';
import type { Account } from './accounts.ts';
import { problem } from './answers.ts';
import { answeredOn } from './bankAccounts.ts';
import type { Refund, Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

const refundSchema = z.strictObject({
  /** The charge that is paid back, by its id here. */
  charge: z.string().max(80),
  amount: z.string().regex(/^[1-9]\d{0,17}$/),
  currency: z.string().length(3),
  reference: z.string().max(100),
  date: z.iso.date(),
});

/** How the way to answer is disturbed: told to be silent, or to turn away. */
export interface Disturbed {
  /** Whether the answer to this request is lost. */
  readonly loses: () => boolean;
  /** Answers otherwise than it should, and says so. */
  readonly turnsAway: (response: Response) => boolean;
}

/**
 * Money that goes back: never more of a charge than was collected, once under each key. Most goes back at once; with some cards
 * it takes days, and comes back since the account is closed.
 */
export function refunds(app: Express, vault: Vault, webhooks: WebhookSender, disturbed: Disturbed): void {
  const holderOf = (response: Response) => response.locals.account as Account;

  app.post('/v1/refunds', (request, response) => {
    const key = request.get('Idempotency-Key');
    if (!key) return problem(response, 400, 'The header Idempotency-Key is missing.');
    const { account } = holderOf(response);
    const parsed = refundSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    if (disturbed.turnsAway(response)) return;
    const asked = parsed.data;
    const known = vault.refundUnder(account, key);
    if (known) {
      const isSame = Object.entries(asked).every(([name, value]) => known[name as keyof Refund] === value);
      if (!isSame) return problem(response, 422, 'This key was used for another request.');
      response.status(known.state === 'submitted' ? 202 : 201).json(known);
      return;
    }
    const charge = vault.chargesOf(account).find(({ id }) => id === asked.charge);
    if (charge?.state !== 'collected') return problem(response, 404, 'There is no such charge.');
    if (charge.currency !== asked.currency)
      return problem(response, 422, `This charge was in ${charge.currency}.`);
    const back = vault
      .refundsOf(account)
      .filter((one) => one.charge === charge.id && one.state !== 'failed')
      .reduce((sum, { amount }) => sum + BigInt(amount), 0n);
    if (back + BigInt(asked.amount) > BigInt(charge.amount))
      return problem(response, 422, 'More cannot be paid back than was charged.');
    tellDay(account, asked.date);
    const { refunds: how } = vault.cards.get(charge.token)?.behaviour ?? {};
    const made = { id: `refund-${randomBytes(12).toString('hex')}`, account, key, ...asked };
    const refund: Refund =
      how === undefined
        ? { ...made, state: 'done', says: '' }
        : { ...made, state: 'submitted', says: '', expectedOn: answeredOn(asked.date) };
    vault.keepRefund(refund);
    if (refund.state === 'done') webhooks.send(account, 'refund.done', refund);
    if (disturbed.loses()) return; // The caller waits in vain.
    response.status(refund.state === 'submitted' ? 202 : 201).json(refund);
  });

  /** The record of refunds: by key, or all of it page by page. */
  app.get('/v1/refunds', (request, response) => {
    const { account } = holderOf(response);
    const on = z.iso.date().safeParse(request.query.on);
    if (on.success) tellDay(account, on.data);
    if (typeof request.query.key === 'string') {
      const refund = vault.refundUnder(account, request.query.key);
      response.json({ refunds: refund ? [refund] : [] });
      return;
    }
    const all = vault.refundsOf(account);
    const after = Number(request.query.after ?? 0);
    const page = all.slice(after, after + 500);
    response.json({ refunds: page, next: after + page.length < all.length ? after + page.length : null });
  });

  /** The banks answer what they have by a day that somebody tells: this gateway has no clock of its own. */
  function tellDay(account: string, on: string): void {
    for (const refund of vault.refundsOf(account)) {
      const { expectedOn, ...made } = refund;
      if (refund.state !== 'submitted' || expectedOn === undefined || expectedOn > on) continue;
      const charge = vault.chargesOf(account).find(({ id }) => id === refund.charge);
      const fails = vault.cards.get(charge?.token ?? '')?.behaviour.refunds === 'come back';
      const answered: Refund = fails
        ? { ...made, state: 'failed', says: 'The account of this card is closed.' }
        : { ...made, state: 'done' };
      vault.keepRefund(answered);
      webhooks.send(account, `refund.${answered.state}`, answered);
    }
  }
}
