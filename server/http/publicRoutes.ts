import rateLimit from 'express-rate-limit';
import type { Express, RequestHandler } from 'express';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { newCardSchema } from '../customers/messages.ts';
import { changeCardFromOwnPage, payFromOwnPage, readOwnPage } from '../customers/ownPage.ts';
import type { PublicGateway } from './operatorRoutes.ts';
import { RefusedCommand } from './problem.ts';
import type { Routes } from './route.ts';
import { beginSession, endSession, personOf, takeSignInToken } from './session.ts';

/** Strangers may ask so often in a minute; customers never come near it. */
export function limitStrangers(most: number): RequestHandler {
  return rateLimit({
    windowMs: 60_000,
    limit: most,
    standardHeaders: true,
    legacyHeaders: false,
    message: { status: 429, detail: 'Too many requests just now. Wait a minute and try again.' },
  });
}

/** What can be asked without being signed in: a customer's own page by its link, and signing in. */
export function publicRoutes(
  app: Express,
  routes: Routes,
  almanac: Almanac,
  settings: { readonly demo: boolean; readonly secure: boolean; readonly gateway: PublicGateway },
): void {
  app.use('/api/own', limitStrangers(120));
  app.use('/api/session', limitStrangers(60));

  routes.add('get', '/api/session', {
    may: 'anyone',
    answer: async ({ response }) => ({ person: personOf(response), demo: settings.demo }),
  });
  routes.add('post', '/api/session/demo', {
    may: 'anyone',
    answer: async ({ response }) => {
      if (!settings.demo) throw new RefusedCommand(404, 'There is no such thing.');
      const person = { role: 'owner', name: 'Owner of the demo' } as const;
      await beginSession(almanac.db, response, person, settings.secure);
      return { person };
    },
  });
  routes.add('post', '/api/session/link', {
    may: 'anyone',
    body: z.strictObject({ token: z.string().min(20).max(100) }),
    answer: async ({ body, response }) => {
      const good = await takeSignInToken(almanac.db, body.token);
      if (!good) {
        throw new RefusedCommand(
          410,
          'This sign-in link has been used or is too old. Print another: ./almanac sign-in',
        );
      }
      const person = { role: 'owner', name: 'Owner' } as const;
      await beginSession(almanac.db, response, person, settings.secure);
      return { person };
    },
  });
  routes.add('delete', '/api/session', {
    may: 'anyone',
    answer: ({ request, response }) => endSession(almanac.db, request, response),
  });

  routes.add('get', '/api/own/:token', {
    may: 'anyone',
    answer: async ({ params }) => ({
      ...(await readOwnPage(almanac, params.token ?? '')),
      gateway: settings.gateway,
    }),
  });
  routes.add('post', '/api/own/:token/pay', {
    may: 'anyone',
    answer: ({ params, request }) => {
      const key = z.uuid().safeParse(request.get('Idempotency-Key'));
      if (!key.success) throw new RefusedCommand(400, 'The header Idempotency-Key is missing.');
      return payFromOwnPage(almanac, params.token ?? '', key.data);
    },
  });
  routes.add('post', '/api/own/:token/card', {
    may: 'anyone',
    body: newCardSchema,
    answer: ({ params, body }) => changeCardFromOwnPage(almanac, params.token ?? '', body.token),
  });
}
