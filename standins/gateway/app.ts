import { randomBytes } from 'node:crypto';
import express, { type Express, type Response } from 'express';
import { z } from 'zod';
import { factsOf, randomKey, STAGE_NAMES, type Account, type Stage } from './accounts.ts';
import { accountOf, escaped, letBrowsersIn, problem, sendPage } from './answers.ts';
import { answerSubmitted, answeredOn, bankAccounts } from './bankAccounts.ts';
import { confirmations, confirmedBefore, NOT_CONFIRMED } from './confirmations.ts';
import { handOver } from './handOver.ts';
import { PRACTICE_CARDS, passesLuhn, type Behaviour } from './practiceCards.ts';
import { reader } from './reader.ts';
import { refunds } from './refunds.ts';
import {
  cardListSchema,
  cardSchema,
  chargeSchema,
  checkSchema,
  expirySchema,
  faultsSchema,
  happeningSchema,
  movedCardsSchema,
  webhookSchema,
  type Faults,
} from './schemas.ts';
import { sendAway } from './sendAway.ts';
import type { Charge, Vault } from './vault.ts';
import type { WebhookSender } from './webhooks.ts';

/** ISO 8583: the card has expired. */
const EXPIRED = '54';
/** ISO 8583: not enough money, at which is looked only where an amount is authorised. */
const NO_MONEY = '51';

/** Whether a card is over on a day (`YYYY-MM-DD`): it is good through the last day of its month. */
function isOver(
  card: { readonly expiresYear: number | null; readonly expiresMonth: number | null },
  on: string,
): boolean {
  if (card.expiresYear === null) return false;
  return `${card.expiresYear}-${String(card.expiresMonth).padStart(2, '0')}` < on.slice(0, 7);
}

/** The stand-in's HTTP interface. Cards come from browsers with an account's public key; the rest needs its secret key. */
export function gatewayApp(vault: Vault, webhooks: WebhookSender): Express {
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

  app.use('/v1/cards', letBrowsersIn);

  /** Takes a card from a browser and gives a token for it. */
  app.post('/v1/cards', (request, response) => {
    const holder = accountOf(vault, request, 'public');
    if (!holder) return problem(response, 401, 'The public key is wrong.');
    const parsed = cardSchema.safeParse(request.body);
    if (!parsed.success || !passesLuhn(parsed.data.number)) {
      return problem(response, 422, 'That is not a card number. Check the digits.');
    }
    const practice = PRACTICE_CARDS.find((one) => one.number === parsed.data.number);
    if (!practice)
      return problem(response, 422, 'Only practice cards are taken here: numbers starting with 9.');
    const { number, expiresMonth, expiresYear, holder: name, on } = parsed.data;
    if (on !== undefined && isOver({ expiresMonth, expiresYear }, on)) {
      return problem(response, 422, 'This card has expired.', 'expires');
    }
    const card = vault.keepCard({
      account: holder.account,
      network: practice.network,
      lastFour: number.slice(-4),
      expiresMonth,
      expiresYear,
      ...(name ? { holder: name } : {}),
      behaviour: practice.behaviour,
    });
    response.status(201).json(withoutBehaviour(card));
  });

  bankAccounts(app, vault);

  app.get('/v1/practice-cards', (_request, response) => {
    response.set('Access-Control-Allow-Origin', '*');
    response.json(
      PRACTICE_CARDS.map(({ number, network, description }) => ({ number, network, description })),
    );
  });

  app.use('/v1', (request, response, next) => {
    const account = accountOf(vault, request, 'secret');
    if (!account) return problem(response, 401, 'The secret key is wrong, or it was revoked.');
    response.locals.account = account;
    next();
  });
  const holderOf = (response: Response) => response.locals.account as Account;
  /** A card that the account of a request keeps. */
  const cardOf = (token: string, response: Response) => {
    const card = vault.cards.get(token);
    return card?.account === holderOf(response).account && card.expiresYear !== null ? card : undefined;
  };

  app.get('/v1/account', (_request, response) => {
    response.json(factsOf(holderOf(response)));
  });

  /** Names the address that webhooks of the account go to, and gives the secret they are signed with. */
  app.put('/v1/webhook', (request, response) => {
    const parsed = webhookSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const webhook = { url: parsed.data.url, secret: newWebhookSecret() };
    vault.keepAccount({ ...holderOf(response), webhook });
    response.json({ secret: webhook.secret });
  });

  /** A new secret; until the next rotation webhooks are signed with the one before as well. */
  app.post('/v1/webhook/rotation', (_request, response) => {
    const account = holderOf(response);
    if (!account.webhook) return problem(response, 409, 'No address for webhooks has been named.');
    const { url, secret: earlier } = account.webhook;
    const secret = newWebhookSecret();
    vault.keepAccount({ ...account, webhook: { url, secret, earlier } });
    response.status(201).json({ secret });
  });

  app.delete('/v1/webhook', (_request, response) => {
    vault.keepAccount({ ...holderOf(response), webhook: null });
    response.json({});
  });

  /** Takes over cards from another system, with the tokens they already have. */
  app.post('/v1/moved-cards', (request, response) => {
    const parsed = movedCardsSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const fresh = parsed.data.filter((card) => !vault.cards.has(card.token));
    for (const { token, ...card } of fresh) {
      vault.keepCard(
        { ...card, account: holderOf(response).account, behaviour: card.behaviour as Behaviour },
        token,
      );
    }
    response.status(201).json({ taken: fresh.length });
  });

  app.get('/v1/cards/:token', (request, response) => {
    const card = cardOf(request.params.token, response);
    if (card) response.json(withoutBehaviour(card));
    else problem(response, 404, 'There is no such card.');
  });

  /** Of many tokens at once, the cards of the account; tokens that are none of its own are left out. */
  app.post('/v1/card-lists', (request, response) => {
    const parsed = cardListSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const { account } = holderOf(response);
    const cards = parsed.data.tokens.flatMap((token) => vault.cards.get(token) ?? []);
    response.json({ cards: cards.filter((card) => card.account === account).map(withoutBehaviour) });
  });

  /**
   * Authorises zero, whether the card could be charged at all, or an amount, whether there is so much. Nothing is kept of it.
   */
  app.post('/v1/cards/:token/checks', (request, response) => {
    const card = cardOf(request.params.token, response);
    const parsed = checkSchema.safeParse(request.body);
    if (!card) return problem(response, 404, 'There is no such card.');
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const { date, amount } = parsed.data;
    const code = decide(card.behaviour, card.token, date, vault.chargesOf(card.account));
    const isWell = (code === NO_MONEY && amount === undefined) || card.behaviour.onlyCharges === true;
    response.status(201).json({ code: isOver(card, date) ? EXPIRED : isWell ? '00' : code });
  });

  /** A card that was issued anew with the same number. */
  app.put('/v1/cards/:token/expiry', (request, response) => {
    const card = cardOf(request.params.token, response);
    const parsed = expirySchema.safeParse(request.body);
    if (!card) return problem(response, 404, 'There is no such card.');
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const { token, ...facts } = card;
    response.json(withoutBehaviour(vault.keepCard({ ...facts, ...parsed.data }, token)));
  });

  app.post('/v1/charges', (request, response) => {
    const key = request.get('Idempotency-Key');
    if (!key) return problem(response, 400, 'The header Idempotency-Key is missing.');
    const { account, stage, abilities } = holderOf(response);
    const known = vault.chargeUnder(account, key);
    const parsed = chargeSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const { rehearsal, ...asked } = parsed.data;
    const turned = faults.chargesAnswer;
    if (turned && !turned.charged) return turnAway(response, turned);
    if (known)
      return isSame(known, asked)
        ? answer(response, known, vault)
        : problem(response, 422, 'This key was used for another request.');
    if (stage === 'checking' || stage === 'asking')
      return problem(response, 403, 'This account may not charge yet.');
    if (!abilities.currencies.includes(asked.currency))
      return problem(response, 422, `This account takes no ${asked.currency}.`);
    if (!new RegExp(abilities.statementText.pattern).test(asked.statementText))
      return problem(response, 422, `A statement text has ${abilities.statementText.says}.`);
    const card = vault.cards.get(asked.token);
    if (card?.account !== account) return problem(response, 404, 'There is no such card.');
    tellDay(account, asked.date);
    const made = { id: `charge-${randomBytes(12).toString('hex')}`, account, key, ...asked };
    const isDebit = card.expiresYear === null;
    const code = isOver(card, asked.date)
      ? EXPIRED
      : decide(card.behaviour, asked.token, asked.date, vault.chargesOf(account));
    const asksHolder = card.behaviour.confirms === true && code !== EXPIRED;
    const charge: Charge = isDebit
      ? { ...made, state: 'submitted', code: '', expectedOn: answeredOn(asked.date) }
      : asksHolder
        ? {
            ...{ ...made, state: 'submitted', code: '', waitsFor: 'cardholder' },
            expectedOn: confirmedBefore(asked.date),
          }
        : { ...made, state: code === '00' ? 'collected' : 'declined', code };
    if (rehearsal) return answer(response, charge, vault);
    vault.keepCharge(charge);
    if (charge.state !== 'submitted')
      webhooks.send(account, `money.${charge.state}`, charge, faults.repeatWebhooks === true);
    if (turned) return turnAway(response, turned);
    if (faults.dropAnswers) {
      faults = { ...faults, dropAnswers: faults.dropAnswers - 1 };
      return; // The caller waits in vain.
    }
    answer(response, charge, vault);
  });

  /** What is submitted is answered by a day that somebody tells; what nobody has confirmed by then is declined. */
  function tellDay(account: string, on: string): void {
    renewCards(account, on);
    answerSubmitted(vault, webhooks, account, on, (charge) =>
      charge.waitsFor === 'cardholder' ? NOT_CONFIRMED : decideLate(charge),
    );
  }

  /** Banks issue a card anew in the month before its last: the token stays, the number does not. */
  function renewCards(account: string, on: string): void {
    for (const token of vault.renewing) {
      const card = vault.cards.get(token);
      if (card?.account !== account || card.expiresYear === null || card.expiresMonth === null) continue;
      const [year = 0, month = 0] = on.split('-').map(Number);
      if (year * 12 + month < card.expiresYear * 12 + card.expiresMonth - 1) continue;
      const { token: _, ...facts } = card;
      const lastFour = String((Number(card.lastFour) + 1111) % 10_000).padStart(4, '0');
      const renewed = { ...facts, lastFour, expiresYear: year + 4 };
      webhooks.send(account, 'card.renewed', withoutBehaviour(vault.keepCard(renewed, token)));
    }
  }

  /** What the bank says of a charge some time after it was asked for. */
  function decideLate({ account, token, date, id }: Charge): string {
    const earlier = vault.chargesOf(account).filter((one) => one.state !== 'submitted' && one.id !== id);
    return decide(vault.cards.get(token)?.behaviour ?? {}, token, date, earlier);
  }

  function turnAway(response: Response, turned: NonNullable<Faults['chargesAnswer']>): void {
    const times = turned.times - 1;
    const { chargesAnswer: _, ...rest } = faults;
    faults = times === 0 ? rest : { ...faults, chargesAnswer: { ...turned, times } };
    if (turned.page) response.status(turned.status).type('html').send('<h1>Sorry</h1>');
    else problem(response, turned.status, 'The gateway was told to answer so.');
  }

  /** The gateway's own record: by idempotency key, or all of it page by page. */
  app.get('/v1/charges', (request, response) => {
    const on = z.iso.date().safeParse(request.query.on);
    if (on.success) tellDay(holderOf(response).account, on.data);
    const charges = vault.chargesOf(holderOf(response).account);
    if (typeof request.query.key === 'string') {
      const charge = vault.chargeUnder(holderOf(response).account, request.query.key);
      response.json({ charges: charge ? [charge] : [] });
      return;
    }
    const after = Number(request.query.after ?? 0);
    const page = charges.slice(after, after + 500);
    response.json({
      charges: page,
      next: after + page.length < charges.length ? after + page.length : null,
    });
  });

  app.put('/practice/faults', (request, response) => {
    const parsed = faultsSchema.safeParse(request.body);
    if (!accountOf(vault, request, 'secret')) return problem(response, 401, 'The secret key is wrong.');
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    faults = parsed.data;
    response.json(faults);
  });

  /** Makes something happen that a gateway tells of by itself. */
  app.post('/practice/happenings', (request, response) => {
    const account = accountOf(vault, request, 'secret');
    const parsed = happeningSchema.safeParse(request.body);
    if (!account) return problem(response, 401, 'The secret key is wrong.');
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    webhooks.send(account.account, parsed.data.type, parsed.data.data);
    response.status(201).json({});
  });

  /** The account's page at the gateway, where its checks are moved on by hand. */
  app.get('/accounts/:account', (request, response) => {
    const account = vault.accounts.get(request.params.account);
    if (!account) return problem(response, 404, 'There is no such account.');
    const moves = STAGE_NAMES.map(
      (stage) =>
        `<form method="post"><input type="hidden" name="stage" value="${stage}"><button ${stage === account.stage ? 'disabled' : ''}>${stage}</button></form>`,
    ).join('');
    sendPage(
      response,
      account.name,
      `<p>Its checks stand at <b>${escaped(account.stage)}</b>. Move them on:</p>${moves}`,
    );
  });
  app.post('/accounts/:account', express.urlencoded({ extended: false }), (request, response) => {
    const account = vault.accounts.get(request.params.account);
    const { stage } = request.body as { stage?: string };
    if (!account || !STAGE_NAMES.includes(stage as Stage))
      return problem(response, 404, 'There is no such account.');
    const moved = vault.keepAccount({ ...account, stage: stage as Stage });
    webhooks.send(moved.account, 'account.changed', factsOf(moved));
    response.redirect(303, `/accounts/${encodeURIComponent(account.account)}`);
  });

  handOver(app, vault);
  reader(app, vault);
  sendAway(app, vault, webhooks);
  confirmations(app, vault, webhooks, decideLate);
  refunds(app, vault, webhooks, {
    loses() {
      if (!faults.dropRefunds) return false;
      faults = { ...faults, dropRefunds: faults.dropRefunds - 1 };
      return true;
    },
    turnsAway(response) {
      const turned = faults.chargesAnswer;
      if (!turned || turned.charged) return false;
      turnAway(response, turned);
      return true;
    },
  });

  app.get('/health', (_request, response) => {
    response.json({ well: true });
  });
  return app;
}

/** Whether a charge was asked for in the very same words. */
function isSame(charge: Charge, asked: Record<string, unknown>): boolean {
  return Object.entries(asked).every(([name, value]) => charge[name as keyof Charge] === value);
}

function decide(behaviour: Behaviour, token: string, date: string, charges: readonly Charge[]): string {
  const { code, from, until, firstTries, firstDay } = behaviour;
  if (code === undefined) return '00';
  if (from !== undefined && date < from) return '00';
  if (until !== undefined && date >= until) return '00';
  const earlier = charges.filter((charge) => charge.token === token);
  if (firstTries !== undefined && earlier.length >= firstTries) return '00';
  if (hasMoney(behaviour, Number(date.slice(8)))) return '00';
  if (firstDay && earlier.length > 0 && earlier[0]?.date !== date) return '00';
  return code;
}

function hasMoney({ moneyFrom, moneyUntil }: Behaviour, day: number): boolean {
  if (moneyFrom === undefined || moneyUntil === undefined) return false;
  return moneyFrom <= moneyUntil
    ? day >= moneyFrom && day <= moneyUntil
    : day >= moneyFrom || day <= moneyUntil;
}

/** A silent card's charge is made and never answered; it can only be asked for. */
function answer(response: Response, charge: Charge, vault: Vault): void {
  if (vault.cards.get(charge.token)?.behaviour.silent) return;
  response.status({ collected: 201, submitted: 202, declined: 402 }[charge.state]).json(charge);
}

const newWebhookSecret = () => `whsec_${Buffer.from(randomKey()).toString('base64')}`;

function withoutBehaviour<T extends { behaviour: unknown; account: unknown }>({
  behaviour: _,
  account: _account,
  ...card
}: T): Omit<T, 'behaviour' | 'account'> {
  return card;
}
