import type { Express, Response } from 'express';
import QRCode from 'qrcode';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { settingsOf } from '../settings/settings.ts';
import { versioned } from '../settings/messages.ts';
import { join } from '../signUp/join.ts';
import { joinSchema, quoteSchema, signUpPageSchema, visitSchema } from '../signUp/messages.ts';
import {
  archiveSignUpPage,
  changeSignUpPage,
  listSignUpPages,
  makeSignUpPage,
  readSignUpPage,
  switchSignUpPage,
} from '../signUp/pages.ts';
import { pageStartSchema } from '../signUp/startMessages.ts';
import { beginPage } from '../signUp/starts.ts';
import { pageAt, previewPage, readPublicPage } from '../signUp/publicPage.ts';
import { quote, quoteOf } from '../signUp/quote.ts';
import { noteVisit } from '../signUp/visits.ts';
import { addressOf, type Limits } from './limits.ts';
import { SIGN_UP_COLUMNS } from './listColumns.ts';
import { addList } from './listRoutes.ts';
import { EVERYONE_SIGNED_IN, WRITERS, type Routes } from './route.ts';
import { personOf } from './session.ts';

const asked = z.object({
  /** As browsers name languages, the wanted ones first. */
  language: z.string().max(200).default(''),
  rehearsal: z.enum(['yes', '']).default(''),
});

/** Sign-up pages: what staff make of them, and what anybody does on them. */
export function signUpRoutes(
  app: Express,
  routes: Routes,
  almanac: Almanac,
  { limits }: { readonly limits: Limits },
): void {
  const may = EVERYONE_SIGNED_IN;
  addList(routes, almanac, '/api/sign-up-pages', {
    ...{ may, name: 'sign-up-pages', columns: SIGN_UP_COLUMNS },
    list: (query) => listSignUpPages(almanac, query),
  });
  routes.add('get', '/api/sign-up-pages/:id', {
    may,
    answer: ({ params }) => readSignUpPage(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/sign-up-pages/:id/qr.svg', {
    may,
    answer: async ({ params, response }) => {
      const { address } = await readSignUpPage(almanac, params.id ?? '');
      response.type('image/svg+xml').send(await QRCode.toString(address, { type: 'svg', margin: 2 }));
    },
  });
  routes.add('post', '/api/sign-up-starts', {
    may: WRITERS,
    did: 'began a sign-up page with a plan',
    body: pageStartSchema,
    answer: ({ body }) => beginPage(almanac, body),
  });
  routes.add('post', '/api/sign-up-pages', {
    may: WRITERS,
    did: 'made a sign-up page',
    body: signUpPageSchema,
    answer: ({ body }) => makeSignUpPage(almanac, body),
  });
  routes.add('put', '/api/sign-up-pages/:id', {
    may: WRITERS,
    did: 'changed a sign-up page',
    body: versioned(signUpPageSchema),
    answer: ({ params, body }) => changeSignUpPage(almanac, params.id ?? '', body),
  });
  routes.add('put', '/api/sign-up-pages/:id/on', {
    may: WRITERS,
    did: 'turned a sign-up page on or off',
    body: z.strictObject({ on: z.boolean() }),
    answer: ({ params, body }) => switchSignUpPage(almanac, params.id ?? '', body.on),
  });
  routes.add('put', '/api/sign-up-pages/:id/archived', {
    may: WRITERS,
    did: 'archived or restored a sign-up page',
    body: z.strictObject({ archived: z.boolean() }),
    answer: ({ params, body }) => archiveSignUpPage(almanac, params.id ?? '', body.archived),
  });
  routes.add('post', '/api/sign-up-pages/preview', {
    may,
    did: 'looked at a sign-up page that is being written',
    changesNothing: true,
    body: z.strictObject({ value: signUpPageSchema, language: z.string().max(5).default('') }),
    answer: ({ body }) => previewPage(almanac, body.value, body.language),
  });

  routes.add('post', '/api/sign-up-pages/quote', {
    may,
    did: 'looked at what joining on a page that is being written would cost',
    changesNothing: true,
    body: z.strictObject({ value: signUpPageSchema, asked: quoteSchema }),
    answer: ({ body }) => quoteOf(almanac, body.value, body.asked),
  });

  app.use('/api/join', limits.perMinute('join', 300));
  const joins = limits.perMinute('joining', 60);
  app.use('/api/join/:key/joining', joins);
  // Staff alone try a page out; for everybody else it is as it stands.
  const isRehearsal = (query: { readonly rehearsal: string }, response: Response) =>
    query.rehearsal === 'yes' && personOf(response) !== null;
  routes.add('get', '/api/join/:key', {
    may: 'anyone',
    query: asked,
    answer: ({ params, query, request, response }) =>
      readPublicPage(almanac, params.key ?? '', {
        language: query.language || (request.get('Accept-Language') ?? '').slice(0, 200),
        rehearsal: isRehearsal(query, response),
      }),
  });
  routes.add('post', '/api/join/:key/visit', {
    may: 'anyone',
    did: 'came to a sign-up page',
    changesNothing: true,
    body: visitSchema,
    answer: async ({ params, body }) => {
      const { id } = await pageAt(params.key ?? '', false);
      await noteVisit(almanac, { pageId: id, ...body });
    },
  });
  routes.add('post', '/api/join/:key/quote', {
    may: 'anyone',
    did: 'looked at what joining would cost',
    changesNothing: true,
    query: asked,
    body: quoteSchema,
    answer: ({ params, query, body, response }) =>
      quote(almanac, params.key ?? '', body, isRehearsal(query, response)),
  });
  routes.add('post', '/api/join/:key/joining', {
    may: 'anyone',
    did: 'joined on a sign-up page',
    query: asked,
    body: joinSchema,
    answer: ({ params, query, body, request, response }) =>
      join(almanac, params.key ?? '', body, {
        address: addressOf(request),
        rehearsal: isRehearsal(query, response),
      }),
  });
}

/**
 * The sites that may show sign-up pages in frames, for the header `Content-Security-Policy`: those that Setup names, and our
 * own, where staff look at a page before it is shown.
 */
export async function framingSites(almanac: Almanac): Promise<string[]> {
  const { origins } = await settingsOf(almanac, 'sites');
  return ["'self'", ...origins];
}
