import { randomBytes } from 'node:crypto';
import type { Express } from 'express';
import express from 'express';
import { z } from 'zod';
import { accountOf, escaped, problem, sendPage } from './answers.ts';
import { PRACTICE_CARDS } from './practiceCards.ts';
import type { Vault } from './vault.ts';

interface ReaderAsk {
  readonly id: string;
  readonly account: string;
  readonly amount: string;
  readonly currency: string;
  readonly says: string;
  state: 'waiting' | 'collected' | 'declined' | 'cancelled';
  code: string;
}

/** A card that is to be read and kept, without a charge. */
interface ReaderRead {
  readonly id: string;
  readonly account: string;
  readonly says: string;
  state: 'waiting' | 'read' | 'cancelled';
  token: string | null;
}

const readSchema = z.strictObject({ says: z.string().max(60) });
const askSchema = z.strictObject({
  amount: z.string().regex(/^[1-9]\d{0,11}$/),
  currency: z.string().length(3),
  says: z.string().max(60),
});

/** A practice card that is presented is good as long as this. */
const READ_UNTIL = { expiresYear: 2034, expiresMonth: 11 };

/** What can be done at the reader, by the ISO 8583 response code that comes of it. */
const PRESENTED: readonly (readonly [string, string])[] = [
  ['00', 'Present a card: it approves'],
  ['51', 'Present a card: not enough money'],
  ['91', 'Present a card: its bank is away'],
  ['', 'Take no card: cancel'],
];

/** The card reader on the counter: a small page that plays it, and the calls that put an amount on its display. */
export function reader(app: Express, vault: Vault): void {
  const asks = new Map<string, ReaderAsk>();
  const waitingAt = (account: string) =>
    [...asks.values()].find((ask) => ask.account === account && ask.state === 'waiting');

  app.post('/v1/reader/asks', (request, response) => {
    const account = accountOf(vault, request, 'secret');
    if (!account?.abilities.reader) return problem(response, 409, 'This account has no card reader.');
    const parsed = askSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const busy = waitingAt(account.account);
    if (busy) busy.state = 'cancelled';
    const ask: ReaderAsk = {
      id: `reader-${randomBytes(9).toString('hex')}`,
      account: account.account,
      ...parsed.data,
      state: 'waiting',
      code: '',
    };
    asks.set(ask.id, ask);
    response.status(201).json(ask);
  });

  app.get('/v1/reader/asks/:id', (request, response) => {
    const ask = asks.get(request.params.id);
    if (!ask || ask.account !== accountOf(vault, request, 'secret')?.account)
      return problem(response, 404, 'There is no such payment at the reader.');
    response.json(ask);
  });

  const reads = new Map<string, ReaderRead>();
  const readingAt = (account: string) =>
    [...reads.values()].find((one) => one.account === account && one.state === 'waiting');

  app.post('/v1/reader/reads', (request, response) => {
    const account = accountOf(vault, request, 'secret');
    if (!account?.abilities.reader) return problem(response, 409, 'This account has no card reader.');
    const parsed = readSchema.safeParse(request.body);
    if (!parsed.success) return problem(response, 422, z.prettifyError(parsed.error));
    const busy = readingAt(account.account);
    if (busy) busy.state = 'cancelled';
    const read: ReaderRead = {
      id: `read-${randomBytes(9).toString('hex')}`,
      account: account.account,
      ...parsed.data,
      state: 'waiting',
      token: null,
    };
    reads.set(read.id, read);
    response.status(201).json(read);
  });

  app.get('/v1/reader/reads/:id', (request, response) => {
    const read = reads.get(request.params.id);
    if (!read || read.account !== accountOf(vault, request, 'secret')?.account)
      return problem(response, 404, 'The reader was not asked for this.');
    response.json(read);
  });

  app.get('/reader/:account', (request, response) => {
    const account = vault.accounts.get(request.params.account);
    if (!account?.abilities.reader) return problem(response, 404, 'There is no reader here.');
    const ask = waitingAt(account.account);
    const read = ask ? undefined : readingAt(account.account);
    if (read) {
      const cards = PRACTICE_CARDS.map(
        ({ number, network, description }) =>
          `<form method="post"><input type="hidden" name="read" value="${escaped(read.id)}"><input type="hidden" name="number" value="${number}"><button class="wide">${escaped(`${network} ending ${number.slice(-4)}: ${description}`)}</button></form>`,
      ).join('');
      const none = `<form method="post"><input type="hidden" name="read" value="${escaped(read.id)}"><button class="wide">Take no card: cancel</button></form>`;
      const page = `<p class="big" style="font-size:28px">Present a card<br><small style="font-size:15px">${escaped(read.says)}</small></p>${cards}${none}`;
      return sendPage(response, `Card reader of ${account.name}`, page);
    }
    const buttons = PRESENTED.map(
      ([code, says]) =>
        `<form method="post"><input type="hidden" name="ask" value="${escaped(ask?.id ?? '')}"><input type="hidden" name="code" value="${code}"><button class="wide">${says}</button></form>`,
    ).join('');
    const display = ask
      ? `<p class="big">${escaped(ask.currency)} ${escaped(ask.amount)}<br><small style="font-size:15px">in minor units. ${escaped(ask.says)}</small></p>${buttons}`
      : '<p class="big">Ready</p><p>Nothing is asked for. This page looks again every two seconds.</p>';
    sendPage(response, `Card reader of ${account.name}`, display, !ask);
  });

  app.post('/reader/:account', express.urlencoded({ extended: false }), (request, response) => {
    const {
      ask: id = '',
      code = '',
      read: readId = '',
      number = '',
    } = request.body as { ask?: string; code?: string; read?: string; number?: string };
    const read = reads.get(readId);
    if (read?.account === request.params.account && read.state === 'waiting') {
      const card = PRACTICE_CARDS.find((one) => one.number === number);
      read.state = card ? 'read' : 'cancelled';
      if (card)
        read.token = vault.keepCard({
          ...{ account: read.account, network: card.network, lastFour: number.slice(-4) },
          ...{ ...READ_UNTIL, behaviour: card.behaviour },
        }).token;
    }
    const ask = asks.get(id);
    if (ask?.account === request.params.account && ask.state === 'waiting') {
      ask.code = PRESENTED.some(([known]) => known === code) ? code : '';
      ask.state = ask.code === '' ? 'cancelled' : ask.code === '00' ? 'collected' : 'declined';
    }
    response.redirect(303, `/reader/${encodeURIComponent(request.params.account)}`);
  });
}
