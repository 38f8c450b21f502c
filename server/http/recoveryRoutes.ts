import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { actOnCases, effectOfActs, noteOnCase } from '../recovery/caseActs.ts';
import { allCases, listCases, readCase } from '../recovery/cases.ts';
import { listExpiring } from '../recovery/expiring.ts';
import { recoveryFigures } from '../recovery/figures.ts';
import { figuresQuery } from '../recovery/figuresMessages.ts';
import { ladderEditSchema, ladderOrderSchema, newLadderSchema } from '../recovery/ladderMessages.ts';
import {
  changeLadder,
  listLadders,
  makeLadder,
  orderLadders,
  readLadder,
  retireLadder,
} from '../recovery/ladders.ts';
import { readPastRecovery } from '../recovery/pastRecovery.ts';
import { caseActsSchema, caseNoteSchema, caseQuery } from '../recovery/messages.ts';
import { resumeSchema, suspensionSchema } from '../recovery/suspensionMessages.ts';
import {
  effectOfSuspending,
  listSuspensions,
  listWaiting,
  resume,
  suspend,
} from '../recovery/suspensions.ts';
import { staffNames } from '../staff/people.ts';
import { CASE_COLUMNS, EXPIRING_COLUMNS, WAITING_COLUMNS } from './listColumns.ts';
import { addList } from './listRoutes.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';

/** Recover: the board of cases, what is done with them by hand, and the ladders that they climb. */
export function recoveryRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  addList(routes, almanac, '/api/cases', {
    ...{ may, name: 'recovery', columns: CASE_COLUMNS, query: caseQuery },
    list: (query) => listCases(almanac, query),
    all: (query) => allCases(almanac, query),
  });
  routes.add('get', '/api/cases/:id', { may, answer: ({ params }) => readCase(almanac, params.id ?? '') });
  routes.add('get', '/api/recovery-figures', {
    may,
    heavy: true,
    query: figuresQuery,
    answer: ({ query }) => recoveryFigures(almanac, query.months),
  });
  routes.add('get', '/api/past-recovery', { may, heavy: true, answer: () => readPastRecovery(almanac) });
  routes.add('get', '/api/staff-names', { may, answer: () => staffNames() });
  routes.add('post', '/api/cases/acts/effect', {
    may: WRITERS,
    did: 'looked at what would be done to cases',
    changesNothing: true,
    body: caseActsSchema,
    answer: ({ body }) => effectOfActs(almanac, body.ids, body.act),
  });
  routes.add('post', '/api/cases/acts', {
    may: WRITERS,
    did: 'did something with cases',
    body: caseActsSchema,
    answer: ({ body }) => actOnCases(almanac, body.ids, body.act),
  });
  routes.add('post', '/api/cases/:id/notes', {
    may: WRITERS,
    did: 'kept a note of a case',
    body: caseNoteSchema,
    answer: ({ params, body }) => noteOnCase(almanac, params.id ?? '', body),
  });

  addList(routes, almanac, '/api/expiring-cards', {
    ...{ may, name: 'expiring-cards', columns: EXPIRING_COLUMNS },
    list: (query) => listExpiring(almanac, query),
  });

  routes.add('get', '/api/suspensions', { may, answer: () => listSuspensions(almanac) });
  addList(routes, almanac, '/api/suspensions/waiting', {
    ...{ may, name: 'waiting', columns: WAITING_COLUMNS },
    list: (query) => listWaiting(almanac, query),
  });
  routes.add('post', '/api/suspensions/effect', {
    may: WRITERS,
    did: 'looked at what stopping to collect would hold back',
    changesNothing: true,
    body: suspensionSchema,
    answer: ({ body }) => effectOfSuspending(almanac, body),
  });
  routes.add('post', '/api/suspensions', {
    may: WRITERS,
    did: 'stopped collecting',
    body: suspensionSchema,
    answer: ({ body }) => suspend(almanac, body),
  });
  routes.add('post', '/api/suspensions/:id/resume', {
    may: WRITERS,
    did: 'let collecting go on',
    body: resumeSchema,
    answer: ({ params, body }) => resume(almanac, params.id ?? '', body),
  });

  routes.add('get', '/api/ladders', { may, answer: () => listLadders(almanac) });
  routes.add('get', '/api/ladders/:id', {
    may,
    answer: ({ params }) => readLadder(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/ladders', {
    may: WRITERS,
    did: 'made a ladder',
    body: newLadderSchema,
    answer: ({ body }) => makeLadder(almanac, body.value),
  });
  routes.add('put', '/api/ladders/order', {
    may: WRITERS,
    did: 'ordered the ladders',
    body: ladderOrderSchema,
    answer: ({ body }) => orderLadders(almanac, body.ids),
  });
  routes.add('put', '/api/ladders/:id', {
    may: WRITERS,
    did: 'changed a ladder',
    body: ladderEditSchema,
    answer: ({ params, body }) => changeLadder(almanac, params.id ?? '', body),
  });
  routes.add('post', '/api/ladders/:id/retire', {
    may: WRITERS,
    did: 'took a ladder out of use',
    body: z.strictObject({}),
    answer: ({ params }) => retireLadder(almanac, params.id ?? ''),
  });
}
