import { randomBytes } from 'node:crypto';
import express, { type Express, type Request, type Response } from 'express';
import { z } from 'zod';
import { PRACTICE_CARDS, passesLuhn, type Behaviour } from './practiceCards.ts';
import type { Charge, Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

export interface GatewayKeys {
  readonly secret: string;
  readonly public: string;
}

/** How the stand-in is told to misbehave. */
const faultsSchema = z.strictObject({
  down: z.boolean().optional(),
  slowMs: z.int().min(0).max(60_000).optional(),
  /** So many coming charges are made and not answered. */
  dropAnswers: z.int().min(0).optional(),
  repeatWebhooks: z.boolean().optional(),
});
export type Faults = z.infer<typeof faultsSchema>;

const cardSchema = z.strictObject({
  number: z.string().transform((text) => text.replace(/[ -]/g, '')),
  expiresYear: z.int().min(2000).max(2200),
  expiresMonth: z.int().min(1).max(12),
});
const behaviourSchema = z.strictObject({
  code: z.string().length(2).optional(),
  from: z.iso.date().optional(),
  until: z.iso.date().optional(),
  firstTries: z.int().optional(),
  firstDay: z.boolean().optional(),
  silent: z.boolean().optional(),
});
const movedCardsSchema = z.array(
  z.strictObject({
    token: z.string().min(8).max(80),
    network: z.string().max(40),
    lastFour: z.string().regex(/^\d{4}$/),
    expiresYear: z.int(),
    expiresMonth: z.int().min(1).max(12),
    behaviour: behaviourSchema,
  }),
);
const chargeSchema = z.strictObject({
  token: z.string(),
  amount: z.string().regex(/^[1-9]\d{0,17}$/),
  currency: z.string().length(3),
  statementText: z.string().min(1).max(22),
  reference: z.string().max(100),
  channel: z.enum(['customer', 'staff', 'import']),
  date: z.iso.date(),
});

/** The stand-in's HTTP interface. Cards come from browsers with the public key; the rest needs the secret key. */
export function gatewayApp(vault: Vault, keys: GatewayKeys, webhooks: WebhookSender): Express {
  const app = express();
  let faults: Faults = {};
  app.disable('x-powered-by');
  app.use(express.json({ limit: '2mb' }));

  app.use('/v1', async (request, response, next) => {
    if (faults.slowMs) await new Promise((resolve) => setTimeout(resolve, faults.slowMs));
    if (faults.down) problem(response, 503, 'The gateway is away.');
    else next();
    void request;
  });

  app.use('/v1/cards', (request, response, next) => {
    response.set({
      'Access-Control-Allow-Origin': '*',
      'Access-Control-Allow-Headers': 'Authorization, Content-Type',
      'Access-Control-Allow-Methods': 'POST',
    });
    if (request.method === 'OPTIONS') response.sendStatus(204);
    else next();
  });

  /** Takes a card from a browser and gives a token for it. */
  app.post('/v1/cards', (request, response) => {
    if (!bears(request, keys.public)) return problem(response, 401, 'The public key is wrong.');
    const parsed = cardSchema.safeParse(request.body);
    if (!parsed.success || !passesLuhn(parsed.data.number)) {
      return problem(response, 422, 'That is not a card number. Check the digits.');
    }
    const practice = PRACTICE_CARDS.find((one) => one.number === parsed.data.number);
    if (!practice)
      return problem(response, 422, 'Only practice cards are taken here: numbers starting with 9.');
    const { number, expiresMonth, expiresYear } = parsed.data;
    const card = vault.keepCard({
      network: practice.network,
      lastFour: number.slice(-4),
      expiresMonth,
      expiresYear,
      behaviour: practice.behaviour,
    });
    response.status(201).json(withoutBehaviour(card));
  });

  app.get('/v1/practice-cards', (_request, response) => {
    response.set('Access-Control-Allow-Origin', '*');
    response.json(
      PRACTICE_CARDS.map(({ number, network, description }) => ({ number, network, description })),
    );
  });

  app.use('/v1', (request, response, next) => {
    if (bears(request, keys.secret)) next();
    else problem(response, 401, 'The secret key is wrong.');
  });

  /** Takes over cards from another system, with the tokens they already have. */
  app.post('/v1/moved-cards', (request, response) => {
    const parsed = movedCardsSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const fresh = parsed.data.filter((card) => !vault.cards.has(card.token));
    for (const { token, ...card } of fresh) {
      vault.keepCard({ ...card, behaviour: card.behaviour as Behaviour }, token);
    }
    response.status(201).json({ taken: fresh.length });
  });

  app.get('/v1/cards/:token', (request, response) => {
    const card = vault.cards.get(request.params.token);
    if (card) response.json(withoutBehaviour(card));
    else problem(response, 404, 'There is no such card.');
  });

  app.post('/v1/charges', (request, response) => {
    const key = request.get('Idempotency-Key');
    if (!key) return problem(response, 400, 'The header Idempotency-Key is missing.');
    const known = vault.chargeByKey.get(key);
    if (known) return answer(response, known, vault);
    const parsed = chargeSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const card = vault.cards.get(parsed.data.token);
    if (!card) return problem(response, 404, 'There is no such card.');
    const code = decide(card.behaviour, parsed.data.token, parsed.data.date, vault.charges);
    const state = code === '00' ? 'collected' : 'declined';
    const charge: Charge = {
      id: `charge-${randomBytes(12).toString('hex')}`,
      key,
      ...parsed.data,
      state,
      code,
    };
    vault.keepCharge(charge);
    webhooks.send(charge, faults.repeatWebhooks === true);
    if (faults.dropAnswers) {
      faults = { ...faults, dropAnswers: faults.dropAnswers - 1 };
      return; // The caller waits in vain.
    }
    answer(response, charge, vault);
  });

  /** The gateway's own record: by idempotency key, or all of it page by page. */
  app.get('/v1/charges', (request, response) => {
    if (typeof request.query.key === 'string') {
      const charge = vault.chargeByKey.get(request.query.key);
      response.json({ charges: charge ? [charge] : [] });
      return;
    }
    const after = Number(request.query.after ?? 0);
    const page = vault.charges.slice(after, after + 500);
    response.json({
      charges: page,
      next: after + page.length < vault.charges.length ? after + page.length : null,
    });
  });

  app.put('/practice/faults', (request, response) => {
    const parsed = faultsSchema.safeParse(request.body);
    if (!bears(request, keys.secret)) return problem(response, 401, 'The secret key is wrong.');
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    faults = parsed.data;
    response.json(faults);
  });

  app.get('/health', (_request, response) => {
    response.json({ well: true });
  });
  return app;
}

function decide(behaviour: Behaviour, token: string, date: string, charges: readonly Charge[]): string {
  const { code, from, until, firstTries, firstDay } = behaviour;
  if (code === undefined) return '00';
  if (from !== undefined && date < from) return '00';
  if (until !== undefined && date >= until) return '00';
  const earlier = charges.filter((charge) => charge.token === token);
  if (firstTries !== undefined && earlier.length >= firstTries) return '00';
  if (firstDay && earlier.length > 0 && earlier[0]?.date !== date) return '00';
  return code;
}

/** A silent card's charge is made and never answered; it can only be asked for. */
function answer(response: Response, charge: Charge, vault: Vault): void {
  if (vault.cards.get(charge.token)?.behaviour.silent) return;
  response.status(charge.state === 'collected' ? 201 : 402).json(charge);
}

function bears(request: Request, key: string): boolean {
  return request.get('Authorization') === `Bearer ${key}`;
}

function problem(response: Response, status: number, detail: string): void {
  response.status(status).type('application/problem+json').send(JSON.stringify({ status, detail }));
}

function withoutBehaviour<T extends { behaviour: unknown }>({
  behaviour: _,
  ...card
}: T): Omit<T, 'behaviour'> {
  return card;
}
