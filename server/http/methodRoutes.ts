import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import {
  changeExpiry,
  checkMethod,
  effectOfWithdrawing,
  makePrimary,
  setOwnMethod,
  withdrawMandate,
} from '../customers/changeMethods.ts';
import { newExpirySchema, newMethodSchema, ownMethodSchema } from '../customers/methodMessages.ts';
import { listMethods } from '../customers/methods.ts';
import { publicGateways } from '../gateways/publicGateway.ts';
import { askToRead, readAsked } from '../gateways/readCards.ts';
import { takeNewMethod } from '../recovery/newMethod.ts';
import { RefusedCommand } from './problem.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';

const idText = z.string().regex(/^\d{1,18}$/);
const purpose = z.object({ rateId: idText.optional(), customerId: idText.optional() });

/** What customers pay with: their methods, the mandates for them, and reading a card on the reader. */
export function methodRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  /** The customer and the method that a path names. */
  const named = (params: Readonly<Record<string, string>>): [string, string] => {
    const methodId = idText.safeParse(params.methodId);
    if (!methodId.success) throw new RefusedCommand(404, 'There is no such method.');
    return [params.id ?? '', methodId.data];
  };
  const at = '/api/customers/:id/methods/:methodId';

  routes.add('get', '/api/customers/:id/methods', {
    may,
    answer: ({ params }) => listMethods(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/card', {
    may: WRITERS,
    did: 'took another card',
    body: newMethodSchema,
    answer: ({ params, body: { read, ...body } }) =>
      takeNewMethod(almanac, { customerId: params.id ?? '', ...body, channel: read ? 'reader' : 'staff' }),
  });
  routes.add('post', `${at}/primary`, {
    may: WRITERS,
    did: 'changed which method comes first',
    answer: ({ params }) => makePrimary(almanac, ...named(params)),
  });
  routes.add('post', `${at}/checks`, {
    may: WRITERS,
    did: 'checked a method',
    answer: ({ params }) => checkMethod(almanac, ...named(params)),
  });
  routes.add('put', `${at}/expiry`, {
    may: WRITERS,
    did: 'changed the expiry of a card',
    body: newExpirySchema,
    answer: ({ params, body }) => changeExpiry(almanac, ...named(params), body),
  });
  routes.add('get', `${at}/withdrawal`, {
    may: WRITERS,
    answer: ({ params }) => effectOfWithdrawing(almanac, ...named(params)),
  });
  routes.add('post', `${at}/withdrawal`, {
    may: WRITERS,
    did: 'withdrew a mandate',
    answer: ({ params }) => withdrawMandate(almanac, ...named(params), 'staff'),
  });
  routes.add('put', '/api/subscriptions/:id/method', {
    may: WRITERS,
    did: 'chose the method of a subscription',
    body: ownMethodSchema,
    answer: ({ params, body }) => setOwnMethod(almanac, params.id ?? '', body.methodId),
  });

  routes.add('get', '/api/card-gateway', {
    may: WRITERS,
    query: purpose,
    answer: ({ query }) => publicGateways(almanac, query),
  });
  routes.add('post', '/api/card-reads', {
    may: WRITERS,
    did: 'asked the reader to read a card',
    body: purpose,
    answer: ({ body }) => askToRead(almanac, body),
  });
  routes.add('get', '/api/card-reads/:id/:read', {
    may: WRITERS,
    answer: ({ params }) => readAsked(almanac, params.id ?? '', params.read ?? ''),
  });
}
