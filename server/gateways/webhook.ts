import express, { type Express } from 'express';
import { Webhook } from 'standardwebhooks';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { sendProblem } from '../http/problem.ts';
import { Attempt } from '../payments/Attempt.ts';
import { settleAttempt } from '../payments/settleAttempt.ts';
import { readCharge } from './standInGateway.ts';

const eventSchema = z.object({ type: z.enum(['money.collected', 'money.declined']), data: z.unknown() });

/**
 * Takes the gateway's webhooks, signed by the Standard Webhooks scheme: a lost answer is made good here. One that
 * comes twice, late or out of order changes nothing, since an attempt is settled once.
 */
export function takeWebhooks(app: Express, almanac: Almanac, secret: string): void {
  const verifier = new Webhook(secret);
  app.post(
    '/hooks/gateway',
    express.raw({ type: 'application/json', limit: '100kb' }),
    async (request, response) => {
      let event: z.output<typeof eventSchema>;
      try {
        const signed = {
          'webhook-id': request.get('webhook-id') ?? '',
          'webhook-timestamp': request.get('webhook-timestamp') ?? '',
          'webhook-signature': request.get('webhook-signature') ?? '',
        };
        event = eventSchema.parse(verifier.verify(String(request.body), signed));
      } catch {
        return sendProblem(response, 400, 'The signature of this webhook is wrong, or it is too old.');
      }
      const charge = readCharge(event.data);
      const attempt = await Attempt.findOne({ where: { idempotencyKey: charge.idempotencyKey } });
      if (attempt?.state === 'pending') await settleAttempt(almanac, charge);
      response.status(204).end();
    },
  );
}
