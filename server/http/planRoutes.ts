import express, { type Express } from 'express';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { MOST_OFFER_BYTES, offerImportQuery, offerImportSchema } from '../imports/messages.ts';
import { exportOffer, importOffer } from '../imports/offerFile.ts';
import { readBeside } from '../beside/readBeside.ts';
import { changeRate, moveSubscribers } from '../plans/changeRate.ts';
import { laterMoveSchema, newPlanSchema, planSchema, rateEditSchema, rateSchema } from '../plans/messages.ts';
import { ARCHIVABLES, setArchived } from '../plans/archive.ts';
import { listPlanRows, saleFaults } from '../plans/planList.ts';
import { addRate, changePlan, listPlans, makePlan, readPlan } from '../plans/plans.ts';
import { variantSchema } from '../plans/choiceMessages.ts';
import { listSubscribersOf, listVersions } from '../plans/rateVersions.ts';
import { changeVariant, makeVariant } from '../plans/variants.ts';
import { pagesOfPlan } from '../signUp/pages.sql.ts';
import { versioned } from '../settings/messages.ts';
import { ofRoles } from './body.ts';
import { listQuery } from './list.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';
import { addList } from './listRoutes.ts';
import { PLAN_COLUMNS, RATE_SUBSCRIBER_COLUMNS } from './listColumns.ts';

/** What a move does is computed of everybody who subscribes: that may take minutes, and holds up nobody. */
const MOVES_DEADLINE_MS = 5 * 60_000;

/** What is offered: plans and their rates. */
export function planRoutes(app: Express, routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  routes.add('get', '/api/plans', {
    may,
    heavy: true,
    query: listQuery,
    answer: ({ query }) => listPlans(almanac, query),
  });
  addList(routes, almanac, '/api/plan-list', {
    ...{ may, name: 'plans', columns: PLAN_COLUMNS },
    list: (query) => listPlanRows(almanac, query),
  });
  routes.add('get', '/api/plans/:id', {
    may,
    answer: async ({ params }) => {
      const plan = await readPlan(almanac, params.id ?? '');
      return {
        ...plan,
        notSold: (await saleFaults(almanac, [plan])).get(plan.id) ?? null,
        signUpPages: await pagesOfPlan(almanac, plan.id),
      };
    },
  });
  routes.add('post', '/api/plans', {
    may: WRITERS,
    did: 'made a plan',
    body: newPlanSchema,
    answer: ({ body }) => makePlan(almanac, body),
  });
  routes.add('put', '/api/plans/:id', {
    may: WRITERS,
    did: 'changed a plan',
    body: versioned(planSchema),
    answer: ({ params, body }) => changePlan(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/plans/:id/variants', {
    may: WRITERS,
    did: 'made a variant',
    body: variantSchema,
    answer: ({ params, body }) => makeVariant(almanac, params.id ?? '', body),
  });
  routes.add('put', '/api/variants/:id', {
    may: WRITERS,
    did: 'changed a variant',
    body: versioned(variantSchema),
    answer: ({ params, body }) => changeVariant(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/plans/:id/rates', {
    may: WRITERS,
    did: 'added a rate',
    body: rateSchema,
    answer: ({ params, body }) => addRate(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/rates/:id/effect', {
    may: WRITERS,
    did: 'looked at what a change of a rate would do',
    changesNothing: true,
    deadlineMs: MOVES_DEADLINE_MS,
    body: rateEditSchema,
    answer: ({ params, body, signal }) => readBeside(almanac, signal, 'effectOfRate', params.id ?? '', body),
  });
  routes.add('put', '/api/rates/:id', {
    may: WRITERS,
    did: 'changed a rate',
    body: rateEditSchema,
    answer: ({ params, body }) => changeRate(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/rates/:id/moves/effect', {
    may: WRITERS,
    did: 'looked at what moving subscribers would do',
    changesNothing: true,
    deadlineMs: MOVES_DEADLINE_MS,
    body: laterMoveSchema,
    answer: ({ params, body, signal }) => readBeside(almanac, signal, 'effectOfMove', params.id ?? '', body),
  });
  routes.add('post', '/api/rates/:id/moves', {
    may: WRITERS,
    did: 'moved subscribers to a version of a rate',
    body: laterMoveSchema,
    answer: ({ params, body }) => moveSubscribers(almanac, params.id ?? '', body),
  });
  addList(routes, almanac, '/api/rates/:id/subscribers', {
    ...{ may, name: 'subscribers', columns: RATE_SUBSCRIBER_COLUMNS },
    list: (query, id) => listSubscribersOf(almanac, id, query),
  });
  routes.add('get', '/api/rates/:id/versions', {
    may,
    answer: ({ params }) => listVersions(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/offer.json', {
    may,
    answer: async ({ response }) => {
      response.attachment('offer.json').json(await exportOffer(almanac));
    },
  });
  // A file with pictures is larger than any message; it is read of nobody but staff.
  app.use('/api/offer', ofRoles(WRITERS, express.text({ type: 'text/plain', limit: MOST_OFFER_BYTES })));
  routes.add('post', '/api/offer/differences', {
    may: WRITERS,
    did: 'read a file of what is offered',
    changesNothing: true,
    query: offerImportQuery,
    body: offerImportSchema,
    answer: ({ body, query }) =>
      importOffer(almanac, { text: body, dryRun: true, update: query.update === 'yes' }),
  });
  routes.add('post', '/api/offer', {
    may: WRITERS,
    did: 'brought in a file of what is offered',
    query: offerImportQuery,
    body: offerImportSchema,
    answer: ({ body, query }) =>
      importOffer(almanac, { text: body, dryRun: false, update: query.update === 'yes' }),
  });
  for (const what of ARCHIVABLES) {
    routes.add('put', `/api/${what.replace(' ', '-')}s/:id/archived`, {
      may: WRITERS,
      did: `archived or restored a ${what}`,
      body: z.strictObject({ archived: z.boolean() }),
      answer: async ({ params, body }) =>
        setArchived(almanac, what, params.id ?? '', body.archived, await businessDateOf(almanac)),
    });
  }
}
