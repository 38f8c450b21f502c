import type { Express } from 'express';
import { Webhook } from 'standardwebhooks';
import request from 'supertest';
import type { Almanac } from '../server/almanac.ts';
import type { GatewayAccount } from '../server/gateways/GatewayAccount.ts';
import { webhookPlace } from '../server/gateways/Gateways.ts';
import { unseal } from '../server/secrets/seal.ts';

/** Tells what the gateway of an account would, signed with its secret (Standard Webhooks). */
export function tellAs(
  to: { readonly app: Express; readonly almanac: Almanac; readonly account: GatewayAccount },
  type: string,
  data: unknown,
  more: { readonly id?: string; readonly at?: string } = {},
) {
  const { app, almanac, account } = to;
  const { id = `hook-${Math.floor(performance.now() * 1000)}`, at } = more;
  const body = JSON.stringify({ type, ...(at ? { timestamp: at } : {}), data });
  const secret = unseal(almanac, webhookPlace(account), account.webhookSecret ?? '');
  const now = new Date();
  return request(app)
    .post(`/hooks/gateways/${account.id}`)
    .set('Content-Type', 'application/json')
    .set('webhook-id', id)
    .set('webhook-timestamp', String(Math.floor(now.getTime() / 1000)))
    .set('webhook-signature', new Webhook(secret).sign(id, now, body))
    .send(body);
}
