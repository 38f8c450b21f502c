import type { Express, Response } from 'express';
import { z } from 'zod';
import { toDay } from '../../core/dates/day.ts';
import { localeOf } from '../../core/typed/manner.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { businessDateOf } from '../business/businessDate.ts';
import {
  actOnLetters,
  effectOnLetters,
  holdAll,
  lettersHeld,
  lettersHeldSince,
} from '../notices/letterActs.ts';
import { allLetters, listLetters, readLetter } from '../notices/letterbook.ts';
import { holdAllSchema, letterActsSchema } from '../notices/messages.ts';
import { policyInForce } from '../policies/policies.ts';
import { settingsOf } from '../settings/settings.ts';
import { readDayPart, readDaySheet, readRail, readSpan } from '../run/daySheet.ts';
import { readTurned } from '../run/turned.ts';
import {
  railQuery,
  SHEET_PARTS,
  sheetPartQuery,
  spanQuery,
  turnedQuery,
  turnSchema,
  type BusinessView,
} from '../run/messages.ts';
import { markSeenTo } from '../run/needs.ts';
import { PageTurn } from '../run/PageTurn.ts';
import { askForTurn } from '../run/turnPages.ts';
import { readLaw, shiftsOf } from '../subscriptions/law.ts';
import type { EnrolmentForm } from '../subscriptions/messages.ts';
import { find } from './find.ts';
import { ofCustomer } from './list.ts';
import { RefusedCommand } from './problem.ts';
import { discountRoutes } from './discountRoutes.ts';
import { customerRoutes } from './customerRoutes.ts';
import { importRoutes } from './importRoutes.ts';
import { methodRoutes } from './methodRoutes.ts';
import { planRoutes } from './planRoutes.ts';
import { rateCardRoutes } from './rateCardRoutes.ts';
import { whatIsSuspended } from '../recovery/suspensions.ts';
import { recoveryRoutes } from './recoveryRoutes.ts';
import { personOf } from './session.ts';
import { subscriptionRoutes } from './subscriptionRoutes.ts';
import { letterWordsRoutes } from './letterWordsRoutes.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';
import { addList } from './listRoutes.ts';
import { LETTER_COLUMNS } from './listColumns.ts';

const day = z.iso
  .date('Give a date as YYYY-MM-DD.')
  .refine((date) => date > '1999-12-31' && date < '2200-01-01', 'Give a day of the years 2000 to 2199.');
/** Pages are turned at most so many days in one go. */
const MOST_DAYS = 800;
/** Everything staff ask and do, with who may. */
export function operatorRoutes(app: Express, routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;

  routes.add('get', '/api/business', {
    may,
    answer: ({ response }) => readBusiness(almanac, response),
  });
  routes.add('post', '/api/turns', {
    may: WRITERS,
    did: 'turned the page',
    body: turnSchema,
    answer: async ({ body, response }) => {
      const business = await Business.findOne({ rejectOnEmpty: true });
      if (!business.practice)
        throw new RefusedCommand(409, 'Pages turn by themselves: this business runs by the clock.');
      if (body.to <= business.businessDate) {
        throw new RefusedCommand(422, `Choose a day after ${business.businessDate}.`, '/to');
      }
      if (toDay(body.to) - toDay(business.businessDate) > MOST_DAYS) {
        throw new RefusedCommand(422, `Turn at most ${MOST_DAYS} days in one go.`, '/to');
      }
      await askForTurn(almanac, body.to);
      return readBusiness(almanac, response);
    },
  });
  routes.add('get', '/api/enrolment-form', { may, answer: () => readEnrolmentForm(almanac) });
  routes.add('get', '/api/rail', {
    may,
    query: railQuery,
    answer: ({ query }) => readRail(almanac, query.from, query.to),
  });
  routes.add('get', '/api/span', {
    may,
    heavy: true,
    query: spanQuery,
    answer: ({ query }) => readSpan(almanac, day.parse(query.from), day.parse(query.until)),
  });
  routes.add('get', '/api/days/:date', {
    may,
    heavy: true,
    answer: ({ params }) => readDaySheet(almanac, day.parse(params.date)),
  });
  routes.add('get', '/api/days/:date/:part', {
    may,
    heavy: true,
    query: sheetPartQuery,
    answer: ({ params, query }) =>
      readDayPart(almanac, day.parse(params.date), z.enum(SHEET_PARTS).parse(params.part), query.page),
  });

  routes.add('post', '/api/needs/:id/seen', {
    may: WRITERS,
    did: 'saw to something on the day sheet',
    answer: async ({ params }) => {
      const seen = await markSeenTo(almanac, params.id ?? '', await businessDateOf(almanac));
      if (!seen) throw new RefusedCommand(404, 'That is off the day sheet already.');
    },
  });

  planRoutes(app, routes, almanac);
  discountRoutes(routes, almanac);
  rateCardRoutes(routes, almanac);
  importRoutes(app, routes, almanac);
  subscriptionRoutes(routes, almanac);
  methodRoutes(routes, almanac);

  customerRoutes(app, routes, almanac);

  routes.add('get', '/api/turned', {
    may,
    heavy: true,
    query: turnedQuery,
    answer: ({ query }) => readTurned(almanac, query.from, query.to),
  });
  recoveryRoutes(routes, almanac);
  addList(routes, almanac, '/api/letters', {
    ...{ may, name: 'letters', columns: LETTER_COLUMNS, query: ofCustomer },
    list: (query) => listLetters(almanac, query),
    all: (query) => allLetters(almanac, query),
  });
  routes.add('get', '/api/letters/held', { may, answer: () => lettersHeld(almanac) });
  routes.add('post', '/api/letters/held', {
    may: WRITERS,
    did: 'held all letters back, or let them go',
    body: holdAllSchema,
    answer: ({ body }) => holdAll(almanac, body.hold),
  });
  routes.add('post', '/api/letters/acts/effect', {
    may: WRITERS,
    did: 'looked at what would be done to letters',
    changesNothing: true,
    body: letterActsSchema,
    answer: ({ body }) => effectOnLetters(almanac, body.ids, body.act),
  });
  routes.add('post', '/api/letters/acts', {
    may: WRITERS,
    did: 'did something with letters',
    body: letterActsSchema,
    answer: ({ body }) => actOnLetters(almanac, body.ids, body.act),
  });
  letterWordsRoutes(routes, almanac);
  routes.add('get', '/api/letters/:id', {
    may,
    answer: ({ params }) => readLetter(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/find', {
    may,
    query: z.object({ text: z.string().max(100).default('') }),
    answer: ({ query }) => find(almanac, query.text),
  });
}

/** What the enrolment form asks, and the law by which its preview computes. */
async function readEnrolmentForm(almanac: Almanac): Promise<EnrolmentForm> {
  const { ask, serves, shipsTo, fields: ownFields } = await settingsOf(almanac, 'customers');
  const { fields, paymentTermDays } = await settingsOf(almanac, 'invoicing');
  const { defaultTax } = await settingsOf(almanac, 'taxing');
  const terms = await policyInForce(almanac, 'terms of service', await businessDateOf(almanac));
  return {
    ask,
    serves,
    shipsTo,
    ownFields,
    invoiceFields: fields,
    law: await readLaw(almanac),
    shifts: await shiftsOf(almanac),
    defaultTax,
    paymentTermDays,
    termsVersion: terms?.version ?? null,
  };
}

async function readBusiness(almanac: Almanac, response: Response): Promise<BusinessView> {
  const { name, homeCurrency, practice } = await Business.findOne({ rejectOnEmpty: true });
  const { language, country } = await settingsOf(almanac, 'business');
  const turn = await PageTurn.findOne({ order: [['id', 'desc']] });
  return {
    name,
    homeCurrency,
    practice,
    businessDate: await businessDateOf(almanac),
    suspended: await whatIsSuspended(almanac),
    lettersHeldOn: await lettersHeldSince(almanac),
    locale: localeOf(language, country),
    turn: turn && { state: turn.state, from: turn.fromDate, to: turn.toDate, says: turn.says },
    role: personOf(response)?.role ?? 'reader',
    wantsFactor: personOf(response)?.wantsFactor ?? false,
  };
}
