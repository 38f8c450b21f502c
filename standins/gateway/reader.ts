import { randomBytes } from 'node:crypto';
import type { Express } from 'express';
import express from 'express';
import { z } from 'zod';
import { accountOf, escaped, problem, sendPage } from './answers.ts';
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

const askSchema = z.strictObject({
  amount: z.string().regex(/^[1-9]\d{0,11}$/),
  currency: z.string().length(3),
  says: z.string().max(60),
});

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

  app.get('/reader/:account', (request, response) => {
    const account = vault.accounts.get(request.params.account);
    if (!account?.abilities.reader) return problem(response, 404, 'There is no reader here.');
    const ask = waitingAt(account.account);
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
    const { ask: id = '', code = '' } = request.body as { ask?: string; code?: string };
    const ask = asks.get(id);
    if (ask?.account === request.params.account && ask.state === 'waiting') {
      ask.code = PRESENTED.some(([known]) => known === code) ? code : '';
      ask.state = ask.code === '' ? 'cancelled' : ask.code === '00' ? 'collected' : 'declined';
    }
    response.redirect(303, `/reader/${encodeURIComponent(request.params.account)}`);
  });
}
