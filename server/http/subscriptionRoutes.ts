import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { askForMethods, effectOfAsking, linkToHandOn } from '../customers/askForMethod.ts';
import { methodRequestSchema } from '../customers/messages.ts';
import { pathForStaff } from '../customers/ownPage.ts';
import { splitSchema } from '../invoices/partMessages.ts';
import { effectOfSplitting, splitInParts } from '../invoices/splitInParts.ts';
import { alterSubscription, effectOfAlteration } from '../subscriptions/alter.ts';
import { alterationSchema } from '../subscriptions/alterMessages.ts';
import { effectOfTakingBack, plannedChanges, takeBack } from '../subscriptions/takeBack.ts';
import { placeSchema } from '../customers/placeMessages.ts';
import { issueDaysSchema } from '../plans/choiceMessages.ts';
import { changeIssueBefore } from '../subscriptions/changeIssueBefore.ts';
import { changePlace } from '../subscriptions/changePlace.ts';
import { enrolmentDraftSchema, savedDraftSchema } from '../reckonings/draftMessages.ts';
import { listDrafts, readDraft, saveDraft, saveDraftAnew, throwDraftAway } from '../reckonings/drafts.ts';
import { acceptReckoning, enrolCustomer } from '../reckonings/enrolCustomer.ts';
import { effectOfMany, enrolMany } from '../reckonings/enrolMany.ts';
import { previewFirstLetter } from '../reckonings/firstLetter.ts';
import { firstLetterSchema } from '../reckonings/firstLetterMessages.ts';
import { manySchema } from '../reckonings/manyMessages.ts';
import { makeReckoning, readReckoning } from '../reckonings/keptReckonings.ts';
import { acceptanceSchema, reckoningSchema } from '../reckonings/messages.ts';
import { enrolmentSchema } from '../subscriptions/messages.ts';
import { allSubscriptions, listSubscriptions, readSubscription } from '../subscriptions/subscriptions.ts';
import { ofCustomer } from './list.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';
import { addList } from './listRoutes.ts';
import { DRAFT_COLUMNS, SUBSCRIPTION_COLUMNS } from './listColumns.ts';

/** Two hundred are enrolled one after the other. */
const SEVERAL_DEADLINE_MS = 120_000;

/** Subscriptions: enrolling, looking, and altering those that run. */
export function subscriptionRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  addList(routes, almanac, '/api/subscriptions', {
    ...{ may, name: 'subscriptions', columns: SUBSCRIPTION_COLUMNS, query: ofCustomer },
    list: (query) => listSubscriptions(almanac, query),
    all: (query) => allSubscriptions(almanac, query),
  });
  routes.add('get', '/api/subscriptions/:id', {
    may,
    answer: ({ params }) => readSubscription(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/subscriptions/:id/own-page', {
    may,
    did: 'looked at a customer’s own page',
    givesSecret: true,
    answer: ({ params }) => pathForStaff(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/subscriptions/:id/link-to-hand-on', {
    may: WRITERS,
    did: 'took a customer’s link to hand it on',
    givesSecret: true,
    answer: ({ params }) => linkToHandOn(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/method-requests/effect', {
    may: WRITERS,
    did: 'looked at whom a request would be written to',
    changesNothing: true,
    body: methodRequestSchema,
    answer: ({ body }) => effectOfAsking(almanac, body.customerIds),
  });
  routes.add('post', '/api/method-requests', {
    may: WRITERS,
    did: 'asked for a way to pay',
    body: methodRequestSchema,
    answer: ({ body }) => askForMethods(almanac, body.customerIds),
  });
  routes.add('post', '/api/subscriptions', {
    may: WRITERS,
    did: 'enrolled a customer',
    body: enrolmentSchema,
    answer: ({ body }) => enrolCustomer(almanac, body, 'staff'),
  });
  routes.add('post', '/api/first-letter', {
    may: WRITERS,
    did: 'looked at a first letter',
    changesNothing: true,
    body: firstLetterSchema,
    answer: ({ body }) => previewFirstLetter(almanac, body),
  });
  routes.add('post', '/api/subscriptions/several/effect', {
    may: WRITERS,
    did: 'looked at what enrolling several would do',
    changesNothing: true,
    deadlineMs: SEVERAL_DEADLINE_MS,
    body: manySchema,
    answer: ({ body }) => effectOfMany(almanac, body),
  });
  routes.add('post', '/api/subscriptions/several', {
    may: WRITERS,
    did: 'enrolled several customers',
    deadlineMs: SEVERAL_DEADLINE_MS,
    body: manySchema,
    answer: ({ body }) => enrolMany(almanac, body),
  });
  routes.add('put', '/api/subscriptions/:id/place', {
    may: WRITERS,
    did: 'changed where a subscription is served',
    body: z.strictObject({ place: placeSchema.nullable() }),
    answer: ({ params, body }) => changePlace(almanac, params.id ?? '', body.place),
  });
  routes.add('put', '/api/subscriptions/:id/issue-days', {
    may: WRITERS,
    did: 'changed when a subscription is invoiced',
    body: z.strictObject({ days: issueDaysSchema }),
    answer: ({ params, body }) => changeIssueBefore(almanac, params.id ?? '', body.days),
  });
  addList(routes, almanac, '/api/enrolment-drafts', {
    may: WRITERS,
    name: 'drafts',
    list: (query) => listDrafts(almanac, query),
    columns: DRAFT_COLUMNS,
  });
  routes.add('get', '/api/enrolment-drafts/:id', {
    may: WRITERS,
    answer: ({ params }) => readDraft(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/enrolment-drafts', {
    may: WRITERS,
    did: 'saved a draft of an enrolment',
    body: enrolmentDraftSchema,
    answer: ({ body }) => saveDraft(almanac, body),
  });
  routes.add('put', '/api/enrolment-drafts/:id', {
    may: WRITERS,
    did: 'saved a draft of an enrolment',
    body: savedDraftSchema,
    answer: ({ params, body }) => saveDraftAnew(almanac, params.id ?? '', body),
  });
  routes.add('delete', '/api/enrolment-drafts/:id', {
    may: WRITERS,
    did: 'threw away a draft of an enrolment',
    answer: ({ params }) => throwDraftAway(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/reckonings', {
    may: WRITERS,
    did: 'reckoned an enrolment',
    body: reckoningSchema,
    answer: ({ body }) => makeReckoning(almanac, body),
  });
  routes.add('get', '/api/reckonings/:id', {
    may,
    answer: ({ params }) => readReckoning(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/reckonings/:id/acceptance', {
    may: WRITERS,
    did: 'enrolled a customer',
    body: acceptanceSchema,
    answer: ({ params, body }) => acceptReckoning(almanac, params.id ?? '', body, 'staff'),
  });
  routes.add('post', '/api/subscriptions/:id/effect', {
    may: WRITERS,
    did: 'looked at what an alteration would do',
    changesNothing: true,
    body: alterationSchema,
    answer: ({ params, body }) => effectOfAlteration(almanac, params.id ?? '', body, 'business'),
  });
  routes.add('post', '/api/subscriptions/:id/alter', {
    may: WRITERS,
    did: 'altered a subscription',
    body: alterationSchema,
    answer: ({ params, body }) => alterSubscription(almanac, params.id ?? '', body, 'business'),
  });
  routes.add('post', '/api/invoices/:id/parts/effect', {
    may: WRITERS,
    did: 'looked at what splitting an invoice would do',
    changesNothing: true,
    body: splitSchema,
    answer: ({ params, body }) => effectOfSplitting(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/invoices/:id/parts', {
    may: WRITERS,
    did: 'let an invoice be paid in parts',
    body: splitSchema,
    answer: ({ params, body }) => splitInParts(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/subscriptions/:id/planned', {
    may,
    answer: ({ params }) => plannedChanges(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/subscriptions/:id/planned/:alterationId', {
    may: WRITERS,
    answer: ({ params }) => effectOfTakingBack(almanac, params.id ?? '', params.alterationId ?? ''),
  });
  routes.add('delete', '/api/subscriptions/:id/planned/:alterationId', {
    may: WRITERS,
    did: 'took back a change of a subscription',
    answer: ({ params }) => takeBack(almanac, params.id ?? '', params.alterationId ?? ''),
  });
}
