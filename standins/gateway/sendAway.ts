import { randomBytes } from 'node:crypto';
import express, { type Express } from 'express';
import { z } from 'zod';
import { accountOf, choicesOf, problem, sayMinor, sendOver, sendPage } from './answers.ts';
import type { Charge, Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

const askSchema = z.strictObject({
  amount: z.string().regex(/^[1-9]\d{0,11}$/),
  currency: z.string().length(3),
  statementText: z.string().min(1).max(60),
  reference: z.string().max(120),
  date: z.iso.date(),
  /** Where the payer goes when they are done, whatever they did. */
  returnUrl: z.url({ protocol: /^https?$/ }),
  expiresAt: z.iso.datetime(),
});

/** A payment that its payer is to make here, at a page of the gateway's. */
interface Ask extends z.output<typeof askSchema> {
  readonly id: string;
  readonly account: string;
  readonly key: string;
  /** It was paid, turned down by the bank, or left. */
  ended: boolean;
}

/** What the payer can do, and the ISO 8583 code that comes of it; none: they leave without paying. */
const CHOICES: readonly (readonly [string, string, string | null])[] = [
  ['pay', 'Pay from Tarn & Fell Bank', '00'],
  ['short', 'Pay from an account without money', '51'],
  ['leave', 'Go back without paying', null],
];

/**
 * Online transfers: the payer is sent here, pays at their bank, and is sent back. What became of it is told by webhook, and by
 * the record of charges; going back says nothing. A payment whose time is over cannot be made any more.
 */
export function sendAway(app: Express, vault: Vault, webhooks: WebhookSender): void {
  const asks = new Map<string, Ask>();
  const under = (account: string, key: string) =>
    [...asks.values()].find((ask) => ask.account === account && ask.key === key);
  const isOpen = (ask: Ask) => !ask.ended && Date.parse(ask.expiresAt) > Date.now();

  app.post('/v1/send-aways', (request, response) => {
    const account = accountOf(vault, request, 'secret');
    if (!account?.abilities.methods.includes('online transfer'))
      return problem(response, 409, 'This account takes no online transfers.');
    const key = request.get('Idempotency-Key');
    if (!key) return problem(response, 400, 'The header Idempotency-Key is missing.');
    const parsed = askSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    if (!account.abilities.currencies.includes(parsed.data.currency))
      return problem(response, 422, `This account takes no ${parsed.data.currency}.`);
    const known = under(account.account, key);
    const ask = known ?? {
      ...{ ...parsed.data, id: randomBytes(18).toString('base64url'), account: account.account, key },
      ended: vault.chargeUnder(account.account, key) !== undefined,
    };
    asks.set(ask.id, ask);
    const url = new URL(`/send-away/${ask.id}`, `${request.protocol}://${request.get('host')}`).href;
    response.status(201).json({ url, open: isOpen(ask) });
  });

  /** Whether a payment can still be made: one that is ended without a charge never will be. */
  app.get('/v1/send-aways/:key', (request, response) => {
    const account = accountOf(vault, request, 'secret');
    const ask = account && under(account.account, request.params.key);
    if (!ask) return problem(response, 404, 'There is no such payment.');
    response.json({ open: isOpen(ask) });
  });

  app.get('/send-away/:id', (request, response) => {
    const ask = asks.get(request.params.id);
    if (!ask) return problem(response, 404, 'There is no such payment.');
    const { account, amount, currency, reference, returnUrl } = ask;
    const name = vault.accounts.get(account)?.name ?? account;
    if (!isOpen(ask)) return sendOver(response, returnUrl);
    sendPage(response, name, choicesOf(reference, sayMinor(amount, currency), CHOICES));
  });

  app.post('/send-away/:id', express.urlencoded({ extended: false }), (request, response) => {
    const ask = asks.get(request.params.id ?? '');
    const { what } = request.body as { what?: string };
    const chosen = CHOICES.find(([name]) => name === what);
    if (!ask || !chosen) return problem(response, 404, 'There is no such payment.');
    if (!isOpen(ask)) return response.redirect(303, `/send-away/${ask.id}`);
    ask.ended = true;
    const [, , code] = chosen;
    if (code !== null) {
      const { account, key, amount, currency, statementText, reference, date } = ask;
      const charge: Charge = {
        ...{ id: `charge-${randomBytes(12).toString('hex')}`, account, key, token: 'online transfer' },
        ...{ amount, currency, statementText, reference, channel: 'customer', date },
        ...{ state: code === '00' ? 'collected' : 'declined', code },
      };
      vault.keepCharge(charge);
      webhooks.send(account, `money.${charge.state}`, charge);
    }
    response.redirect(303, ask.returnUrl);
  });
}
