import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import {
  changeDiscount,
  codesAsCsv,
  discountOfCode,
  listDiscounts,
  makeCodes,
  makeDiscount,
} from '../discounts/discounts.ts';
import { codesSchema, discountSchema, type CodeAnswer } from '../discounts/messages.ts';
import { Rate } from '../plans/Rate.ts';
import { cardOfCode } from '../rateCards/takeCard.ts';
import { versioned } from '../settings/messages.ts';
import { RefusedCommand } from './problem.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';
import { addList } from './listRoutes.ts';
import { DISCOUNT_COLUMNS } from './listColumns.ts';

const id = z.string().regex(/^\d{1,18}$/);

/** Discounts and their codes. */
export function discountRoutes(routes: Routes, almanac: Almanac): void {
  addList(routes, almanac, '/api/discounts', {
    ...{ may: EVERYONE_SIGNED_IN, name: 'discounts', columns: DISCOUNT_COLUMNS },
    list: (query) => listDiscounts(almanac, query),
  });
  routes.add('post', '/api/discounts', {
    may: WRITERS,
    did: 'made a discount',
    body: z.strictObject({ value: discountSchema }),
    answer: ({ body }) => makeDiscount(almanac, body.value),
  });
  routes.add('put', '/api/discounts/:id', {
    may: WRITERS,
    did: 'changed a discount',
    body: versioned(discountSchema),
    answer: ({ params, body }) => changeDiscount(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/discounts/:id/codes', {
    may: WRITERS,
    did: 'made discount codes',
    body: codesSchema,
    answer: ({ params, body }) => makeCodes(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/discounts/:id/codes.csv', {
    may: WRITERS,
    answer: async ({ params, response }) => {
      const csv = await codesAsCsv(almanac, params.id ?? '');
      response
        .type('text/csv')
        .attachment(`codes-${params.id ?? ''}.csv`)
        .send(csv);
    },
  });
  routes.add('get', '/api/codes/:code', {
    may: EVERYONE_SIGNED_IN,
    query: z.object({ rateId: id, variantId: id.optional() }),
    answer: async ({ params, query }): Promise<CodeAnswer> => {
      const rate = await Rate.findByPk(query.rateId);
      if (!rate) throw new RefusedCommand(422, 'Choose a plan and a rate.', '/rateId');
      const on = await businessDateOf(almanac);
      const code = params.code ?? '';
      const taking = { rateId: rate.id, variantId: query.variantId ?? null, customerId: null, on };
      const card = await cardOfCode(almanac, code, taking, '/codes/0');
      if (card) return { card };
      const use = { planId: rate.planId, currency: rate.terms.currency, on };
      return { discount: (await discountOfCode(almanac, code, use, '/codes/0')).discount };
    },
  });
}
