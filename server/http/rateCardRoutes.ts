import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { listGroups } from '../customers/groups.ts';
import { applyCard, candidatesOf } from '../rateCards/applyCard.ts';
import { applySchema, rateCardSchema } from '../rateCards/messages.ts';
import { changeRateCard, listRateCards, makeRateCard, readRateCard } from '../rateCards/rateCards.ts';
import { cardsFor } from '../rateCards/takeCard.ts';
import { versioned } from '../settings/messages.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';
import { addList } from './listRoutes.ts';
import { RATE_CARD_COLUMNS } from './listColumns.ts';

const id = z.string().regex(/^\d{1,18}$/);

/** Rate cards, who may have them, and applying them. */
export function rateCardRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  addList(routes, almanac, '/api/rate-cards', {
    ...{ may, name: 'rate-cards', columns: RATE_CARD_COLUMNS },
    list: (query) => listRateCards(almanac, query),
  });
  routes.add('get', '/api/rate-cards/:id', {
    may,
    answer: ({ params }) => readRateCard(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/rate-cards', {
    may: WRITERS,
    did: 'made a rate card',
    body: z.strictObject({ value: rateCardSchema }),
    answer: ({ body }) => makeRateCard(almanac, body.value),
  });
  routes.add('put', '/api/rate-cards/:id', {
    may: WRITERS,
    did: 'changed a rate card',
    body: versioned(rateCardSchema),
    answer: ({ params, body }) => changeRateCard(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/rate-cards/:id/candidates', {
    may,
    heavy: true,
    answer: ({ params }) => candidatesOf(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/rate-cards/:id/apply', {
    may: WRITERS,
    did: 'applied a rate card',
    body: applySchema,
    answer: ({ params, body }) => applyCard(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/rates/:id/cards', {
    may,
    query: z.object({
      customerId: id.optional(),
      variantId: id.optional(),
      group: z.string().max(80).default(''),
    }),
    answer: async ({ params, query }) =>
      cardsFor(almanac, {
        rateId: params.id ?? '',
        variantId: query.variantId ?? null,
        customerId: query.customerId ?? null,
        group: query.group,
        on: await businessDateOf(almanac),
      }),
  });
  routes.add('get', '/api/customer-groups', { may, answer: () => listGroups(almanac) });
}
