import type { Express, Request, Response } from 'express';
import { sendFile } from '../documents/sendFile.ts';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import {
  messageSchema,
  ownCardSchema,
  ownMethodIdSchema,
  ownTermsSchema,
  ownTransferSchema,
} from '../customers/ownMessages.ts';
import {
  alterFromOwnPage,
  agreeFromOwnPage,
  changeCardFromOwnPage,
  comeBackToOwnPage,
  confirmFromOwnPage,
  transferFromOwnPage,
  effectFromOwnPage,
  effectOfOwnWithdrawal,
  ownInvoice,
  payFromOwnPage,
  readOwnPage,
  whoseLink,
  withdrawFromOwnPage,
  writeFromOwnPage,
} from '../customers/ownPage.ts';
import { readStoppable, stopLetters } from '../notices/stopLetters.ts';
import { stopSchema } from '../notices/wordsMessages.ts';
import { acceptSchema, newOwnerSchema, signInSchema } from '../staff/messages.ts';
import { acceptInvitation, readInvitation } from '../staff/people.ts';
import {
  demoOwner,
  letIn,
  makeOwner,
  purposeOfLink,
  signInByLink,
  signInByPassword,
  type Door,
} from '../staff/signIn.ts';
import { alterationSchema } from '../subscriptions/alterMessages.ts';
import type { Limits } from './limits.ts';
import { RefusedCommand } from './problem.ts';
import type { Routes } from './route.ts';
import { endSession, personOf } from './session.ts';

const token = z.strictObject({ token: z.string().min(20).max(200) });

/** What can be asked without being signed in: a customer's own page by its link, and signing in. */
export function publicRoutes(
  app: Express,
  routes: Routes,
  almanac: Almanac,
  settings: { readonly demo: boolean; readonly secure: boolean; readonly limits: Limits },
): void {
  const { limits } = settings;
  app.use('/api/own', limits.perMinute('own', 120));
  app.use('/api/session', limits.perMinute('session', 60));
  app.use('/api/invited', limits.perMinute('invited', 60));
  routes.add('get', '/api/own/:token/stop', {
    may: 'anyone',
    answer: ({ params }) => readStoppable(almanac, params.token ?? ''),
  });
  routes.add('post', '/api/own/:token/stop', {
    may: 'anyone',
    did: 'stopped letters of a kind, or let them come again',
    body: stopSchema,
    answer: ({ params, body }) => stopLetters(almanac, params.token ?? '', body.stop),
  });
  const own = ownLimits(almanac, limits);
  const door = (request: Request, response: Response): Door => ({
    request,
    response,
    secure: settings.secure,
  });

  routes.add('get', '/api/session', {
    may: 'anyone',
    answer: async ({ response }) => ({ person: personOf(response), demo: settings.demo }),
  });
  routes.add('post', '/api/session/demo', {
    may: 'anyone',
    did: 'opened the demo',
    answer: async ({ request, response }) => {
      if (!settings.demo) throw new RefusedCommand(404, 'There is no such thing.');
      await letIn(almanac, await demoOwner(), door(request, response), 'by the button of the demo');
    },
  });
  routes.add('post', '/api/session/password', {
    may: 'anyone',
    did: 'signed in',
    body: signInSchema,
    answer: ({ body, request, response }) => signInByPassword(almanac, body, door(request, response)),
  });
  routes.add('get', '/api/session/link/:token', {
    may: 'anyone',
    answer: ({ params }) => purposeOfLink(almanac, params.token ?? ''),
  });
  routes.add('post', '/api/session/link', {
    may: 'anyone',
    did: 'signed in by a link',
    body: token,
    answer: ({ body, request, response }) => signInByLink(almanac, body.token, door(request, response)),
  });
  routes.add('post', '/api/session/owner', {
    may: 'anyone',
    did: 'became the owner',
    body: newOwnerSchema,
    answer: ({ body, request, response }) => makeOwner(almanac, body, door(request, response)),
  });
  routes.add('delete', '/api/session', {
    may: 'anyone',
    did: 'signed out',
    answer: ({ request, response }) => endSession(almanac.db, request, response, settings.secure),
  });
  routes.add('get', '/api/invited/:token', {
    may: 'anyone',
    answer: ({ params }) => readInvitation(almanac, params.token ?? ''),
  });
  routes.add('post', '/api/invited', {
    may: 'anyone',
    did: 'accepted an invitation',
    body: acceptSchema,
    answer: ({ body, request, response }) => acceptInvitation(almanac, body, door(request, response)),
  });

  routes.add('get', '/api/own/:token', {
    may: 'anyone',
    answer: ({ params, response }) => readOwnPage(almanac, params.token ?? '', personOf(response) !== null),
  });
  routes.add('post', '/api/own/:token/pay', {
    may: 'anyone',
    did: 'paid from their own page',
    answer: async ({ params, request }) => {
      const key = z.uuid().safeParse(request.get('Idempotency-Key'));
      if (!key.success) throw new RefusedCommand(400, 'The header Idempotency-Key is missing.');
      await own(params.token, 'payments');
      return payFromOwnPage(almanac, params.token ?? '', key.data);
    },
  });
  routes.add('get', '/api/own/:token/invoices/:id/document.pdf', {
    may: 'anyone',
    answer: async ({ params, response }) => {
      await own(params.token, 'documents');
      const signedIn = personOf(response) !== null;
      sendFile(response, await ownInvoice(almanac, params.token ?? '', params.id ?? '', signedIn));
    },
  });
  routes.add('post', '/api/own/:token/terms', {
    may: 'anyone',
    did: 'agreed to the terms of service',
    body: ownTermsSchema,
    answer: ({ params, body }) => agreeFromOwnPage(almanac, params.token ?? '', body.version),
  });
  routes.add('post', '/api/own/:token/transfer', {
    may: 'anyone',
    did: 'went to pay by online transfer',
    body: ownTransferSchema,
    answer: async ({ params, body }) => {
      await own(params.token, 'payments');
      return transferFromOwnPage(almanac, params.token ?? '', body.invoiceId);
    },
  });
  routes.add('post', '/api/own/:token/confirmation', {
    may: 'anyone',
    did: 'went to confirm a payment',
    body: ownTransferSchema,
    answer: async ({ params, body }) => {
      await own(params.token, 'payments');
      return confirmFromOwnPage(almanac, params.token ?? '', body.invoiceId);
    },
  });
  routes.add('post', '/api/own/:token/transfer/outcome', {
    may: 'anyone',
    did: 'came back from the gateway’s page',
    answer: ({ params }) => comeBackToOwnPage(almanac, params.token ?? ''),
  });
  routes.add('post', '/api/own/:token/card', {
    may: 'anyone',
    did: 'gave another card',
    body: ownCardSchema,
    answer: async ({ params, body }) => {
      await own(params.token, 'cards');
      return changeCardFromOwnPage(almanac, params.token ?? '', body);
    },
  });
  routes.add('post', '/api/own/:token/withdrawal/effect', {
    may: 'anyone',
    did: 'looked at what withdrawing a mandate would do',
    changesNothing: true,
    body: ownMethodIdSchema,
    answer: ({ params, body }) => effectOfOwnWithdrawal(almanac, params.token ?? '', body.methodId),
  });
  routes.add('post', '/api/own/:token/withdrawal', {
    may: 'anyone',
    did: 'withdrew a mandate',
    body: ownMethodIdSchema,
    answer: async ({ params, body }) => {
      await own(params.token, 'cards');
      return withdrawFromOwnPage(almanac, params.token ?? '', body.methodId);
    },
  });
  routes.add('post', '/api/own/:token/message', {
    may: 'anyone',
    did: 'wrote to us',
    body: messageSchema,
    answer: async ({ params, body }) => {
      await own(params.token, 'messages');
      return writeFromOwnPage(almanac, params.token ?? '', body.text);
    },
  });
  routes.add('post', '/api/own/:token/effect', {
    may: 'anyone',
    did: 'looked at what a change would do',
    changesNothing: true,
    body: alterationSchema,
    answer: async ({ params, body }) => {
      if (body.kind === 'code') await own(params.token, 'codes');
      return effectFromOwnPage(almanac, params.token ?? '', body);
    },
  });
  routes.add('post', '/api/own/:token/alter', {
    may: 'anyone',
    did: 'altered their subscription',
    body: alterationSchema,
    answer: async ({ params, body }) => {
      await own(params.token, body.kind === 'code' ? 'codes' : 'changes');
      return alterFromOwnPage(almanac, params.token ?? '', body);
    },
  });
}

/** What one customer may do on their own page in a day, by whichever of their links; people never come near it. */
const OWN_A_DAY = {
  documents: 200,
  messages: 10,
  codes: 20,
  changes: 20,
  cards: 10,
  payments: 30,
} as const;

function ownLimits(almanac: Almanac, limits: Limits) {
  return async (token: string | undefined, what: keyof typeof OWN_A_DAY): Promise<void> => {
    const customerId = await whoseLink(almanac, token ?? '');
    const says = `That is more than ${OWN_A_DAY[what]} ${what} in a day. Try again tomorrow, or telephone us.`;
    await limits.requirePerDay(`own-${what}`, OWN_A_DAY[what], customerId, says);
  };
}
