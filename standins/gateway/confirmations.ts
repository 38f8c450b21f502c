import { randomBytes } from 'node:crypto';
import express, { type Express, type Response } from 'express';
import { z } from 'zod';
import type { Account } from './accounts.ts';
import { choicesOf, problem, sayMinor, sendOver, sendPage } from './answers.ts';
import type { Charge, Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

const askSchema = z.strictObject({
  /** Under which the charge was asked for. */
  key: z.string().min(1).max(200),
  /** Where the cardholder goes when they are done, whatever they did. */
  returnUrl: z.url({ protocol: /^https?$/ }),
});

/** ISO 8583: the cardholder must confirm it, and has not. */
export const NOT_CONFIRMED = '70';
/** Cardholders have so many days to confirm. */
const CONFIRMED_WITHIN_DAYS = 3;

/** The day on which what is not confirmed is declined, `YYYY-MM-DD`. */
export function confirmedBefore(asked: string): string {
  const day = new Date(`${asked}T00:00:00Z`);
  day.setUTCDate(day.getUTCDate() + CONFIRMED_WITHIN_DAYS);
  return day.toISOString().slice(0, 10);
}

/** What the cardholder can do: whether the charge is confirmed; null: they leave it as it is. */
const CHOICES: readonly (readonly [string, string, boolean | null])[] = [
  ['confirm', 'Confirm this payment', true],
  ['turn down', 'This is not mine: turn it down', false],
  ['leave', 'Go back and decide later', null],
];

/**
 * Charges that wait for their cardholder: they are sent here, confirm or turn it down, and are sent back. What became of it is
 * told by webhook, and by the record of charges; going back says nothing. What is not confirmed in its days is declined.
 * @param decide what the bank says of a charge that was confirmed: an ISO 8583 code
 */
export function confirmations(
  app: Express,
  vault: Vault,
  webhooks: WebhookSender,
  decide: (charge: Charge) => string,
): void {
  const asks = new Map<
    string,
    { readonly account: string; readonly key: string; readonly returnUrl: string }
  >();
  const holderOf = (response: Response) => response.locals.account as Account;
  const waiting = (account: string, key: string) => {
    const charge = vault.chargeUnder(account, key);
    return charge?.waitsFor === 'cardholder' ? charge : undefined;
  };

  app.post('/v1/confirmations', (request, response) => {
    const { account } = holderOf(response);
    const parsed = askSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const charge = waiting(account, parsed.data.key);
    if (!charge) return problem(response, 404, 'There is no such charge, or nobody is to confirm it.');
    const id = randomBytes(18).toString('base64url');
    asks.set(id, { account, ...parsed.data });
    const url = new URL(`/confirm/${id}`, `${request.protocol}://${request.get('host')}`).href;
    response.status(201).json({ url, open: charge.state === 'submitted' });
  });

  app.get('/confirm/:id', (request, response) => {
    const ask = asks.get(request.params.id);
    const charge = ask && waiting(ask.account, ask.key);
    if (!ask || !charge) return problem(response, 404, 'There is no such payment.');
    if (charge.state !== 'submitted') return sendOver(response, ask.returnUrl);
    const name = vault.accounts.get(ask.account)?.name ?? ask.account;
    sendPage(
      response,
      `Tarn & Fell Bank: ${name}`,
      choicesOf(charge.reference, sayMinor(charge.amount, charge.currency), CHOICES),
    );
  });

  app.post('/confirm/:id', express.urlencoded({ extended: false }), (request, response) => {
    const ask = asks.get(request.params.id ?? '');
    const charge = ask && waiting(ask.account, ask.key);
    const { what } = request.body as { what?: string };
    const chosen = CHOICES.find(([name]) => name === what);
    if (!ask || !charge || !chosen) return problem(response, 404, 'There is no such payment.');
    const [, , confirms] = chosen;
    if (charge.state === 'submitted' && confirms !== null) {
      const code = confirms ? decide(charge) : NOT_CONFIRMED;
      const { expectedOn: _, ...made } = charge;
      const answered: Charge = { ...made, state: code === '00' ? 'collected' : 'declined', code };
      vault.keepCharge(answered);
      webhooks.send(ask.account, `money.${answered.state}`, answered);
    }
    response.redirect(303, ask.returnUrl);
  });
}
