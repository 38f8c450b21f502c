import express from 'express';
import type { Express } from 'express';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { listAudit } from '../audit/audit.ts';
import {
  MOST_DOCUMENT_BYTES,
  MOST_UPLOAD_BYTES,
  pictureOf,
  takeDocument,
  takeUpload,
} from '../branding/uploads.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { addHoliday, importHolidays, listHolidays, removeHoliday } from '../calendar/holidays.ts';
import { holidayFileSchema, holidaySchema } from '../calendar/messages.ts';
import { listGatewayAccounts } from '../gateways/accounts.ts';
import {
  beginHandOver,
  connectByKey,
  disconnect,
  endHandOver,
  findAccount,
  rotateWebhookSecret,
  whatStops,
} from '../gateways/connect.ts';
import { testConnection } from '../gateways/health.ts';
import { handOverSchema, pastedKeySchema, versionSchema } from '../gateways/messages.ts';
import { askReader, readReaderAsk } from '../gateways/readerTest.ts';
import { sendTestLetter } from '../notices/testLetter.ts';
import { policySchema } from '../policies/messages.ts';
import { checkLinkedPolicy, listPolicies, writePolicy } from '../policies/policies.ts';
import { newKeySchema } from '../programs/messages.ts';
import { listKeys, makeKey, revokeKey } from '../programs/keys.ts';
import { mend } from '../readiness/mends.ts';
import { readReadiness } from '../readiness/readiness.ts';
import { rehearsalSchema } from '../rehearsal/messages.ts';
import { rehearse } from '../rehearsal/rehearse.ts';
import { SECTIONS, versioned, type SectionName, type SectionValue } from '../settings/messages.ts';
import { changeSection, readSection, settingsOf } from '../settings/settings.ts';
import { taxSchema } from '../taxes/messages.ts';
import { changeTax, listTaxes, makeTax, retireTax } from '../taxes/taxes.ts';
import { ofRoles } from './body.ts';
import { EVERYONE_SIGNED_IN, OWNER, WRITERS, type Routes } from './route.ts';
import { addList } from './listRoutes.ts';
import { AUDIT_COLUMNS } from './listColumns.ts';

/** The first hour of an operator and everything it sets: seen by billers, changed by owners. */
export function setupRoutes(app: Express, routes: Routes, almanac: Almanac): void {
  const may = WRITERS;
  const day = z.iso.date();

  // Which mail server is used where Setup names none.
  routes.add('get', '/api/mail-server', {
    may,
    answer: () => Promise.resolve({ inEnvironment: almanac.config.SMTP_URL !== undefined }),
  });
  for (const name of Object.keys(SECTIONS) as SectionName[]) {
    routes.add('get', `/api/setup/${name}`, { may, answer: () => readSection(almanac, name) });
    routes.add('put', `/api/setup/${name}`, {
      may: OWNER,
      ...(name === 'mail' || name === 'security' ? { asksAgain: true } : {}),
      did: `changed ${name}`,
      body: versioned(SECTIONS[name]),
      answer: ({ body }) =>
        changeSection(almanac, name, body as { version: number; value: SectionValue<typeof name> }),
    });
  }

  routes.add('get', '/api/readiness', { may: EVERYONE_SIGNED_IN, answer: () => readReadiness(almanac) });
  routes.add('post', '/api/readiness/:what/mend', {
    may: OWNER,
    did: 'mended what was missing',
    answer: async ({ params }) => {
      await mend(almanac, params.what ?? '');
      return readReadiness(almanac);
    },
  });
  routes.add('post', '/api/rehearsals', {
    may,
    did: 'rehearsed an enrolment',
    body: rehearsalSchema,
    answer: ({ body }) => rehearse(almanac, body),
  });

  app.use(
    '/api/uploads',
    ofRoles(
      WRITERS,
      express.raw({ type: ['image/*', 'application/octet-stream'], limit: MOST_UPLOAD_BYTES }),
      express.raw({ type: 'application/pdf', limit: MOST_DOCUMENT_BYTES }),
    ),
  );
  // What plans show, beside what the whole business looks like.
  routes.add('post', '/api/uploads/picture', {
    may: WRITERS,
    did: 'uploaded a picture',
    query: z.object({ name: z.string().max(200).default('') }),
    answer: ({ body, query }) => takeUpload(almanac, 'picture', body, query.name),
  });
  routes.add('post', '/api/uploads/document', {
    may: WRITERS,
    did: 'uploaded a document',
    query: z.object({ name: z.string().max(200).default('document.pdf') }),
    answer: ({ body, query }) => takeDocument(almanac, body, query.name),
  });
  routes.add('post', '/api/uploads/:kind', {
    may: OWNER,
    did: 'uploaded a picture',
    query: z.object({ name: z.string().max(200).default('') }),
    answer: ({ params, body, query }) =>
      takeUpload(almanac, z.enum(['logo', 'icon']).parse(params.kind), body, query.name),
  });
  routes.add('get', '/api/branding', {
    may: EVERYONE_SIGNED_IN,
    answer: async () => {
      const { logo, icon, ...colours } = await settingsOf(almanac, 'branding');
      return { ...colours, logo: await pictureOf(almanac, logo), icon: await pictureOf(almanac, icon) };
    },
  });

  routes.add('get', '/api/policies', { may, answer: () => listPolicies(almanac) });
  routes.add('post', '/api/policies', {
    may: OWNER,
    did: 'wrote a policy',
    body: policySchema,
    answer: ({ body }) => writePolicy(almanac, body),
  });
  routes.add('post', '/api/policies/:id/check', {
    may,
    did: 'looked at a linked policy',
    answer: async ({ params }) => {
      await checkLinkedPolicy(almanac, params.id ?? '');
      return listPolicies(almanac);
    },
  });

  gatewayRoutes(routes, almanac);

  routes.add('get', '/api/taxes', { may, answer: () => listTaxes(almanac) });
  routes.add('post', '/api/taxes', {
    may: OWNER,
    did: 'made a tax',
    body: z.strictObject({ value: taxSchema }),
    answer: ({ body }) => makeTax(almanac, body.value),
  });
  routes.add('put', '/api/taxes/:id', {
    may: OWNER,
    did: 'changed a tax',
    body: versioned(taxSchema),
    answer: async ({ params, body }) =>
      changeTax(almanac, params.id ?? '', body, await businessDateOf(almanac)),
  });
  routes.add('delete', '/api/taxes/:id', {
    may: OWNER,
    did: 'retired a tax',
    answer: async ({ params }) => retireTax(almanac, params.id ?? '', await businessDateOf(almanac)),
  });

  routes.add('get', '/api/holidays', { may, answer: () => listHolidays(almanac) });
  routes.add('post', '/api/holidays', {
    may: OWNER,
    did: 'added a holiday',
    body: holidaySchema,
    answer: ({ body }) => addHoliday(almanac, body),
  });
  routes.add('post', '/api/holidays/import', {
    may: OWNER,
    did: 'read a file of holidays',
    body: holidayFileSchema,
    answer: async ({ body }) => importHolidays(almanac, body, await businessDateOf(almanac)),
  });
  routes.add('delete', '/api/holidays', {
    may: OWNER,
    did: 'removed a holiday',
    query: z.object({ country: z.string().trim().max(2).default(''), date: day }),
    answer: ({ query }) => removeHoliday(almanac, query.country, query.date),
  });

  routes.add('post', '/api/mail/test', {
    may: OWNER,
    did: 'sent a test letter',
    body: z.strictObject({ to: z.email('Give the address to send it to.').max(254) }),
    answer: ({ body }) => sendTestLetter(almanac, body.to),
  });

  routes.add('get', '/api/keys', { may: OWNER, answer: () => listKeys(almanac) });
  routes.add('post', '/api/keys', {
    may: OWNER,
    asksAgain: true,
    did: 'made an API key',
    givesSecret: true,
    body: newKeySchema,
    answer: ({ body }) => makeKey(almanac, body),
  });
  routes.add('delete', '/api/keys/:id', {
    may: OWNER,
    asksAgain: true,
    did: 'revoked an API key',
    answer: ({ params }) => revokeKey(almanac, params.id ?? ''),
  });

  addList(routes, almanac, '/api/audit', {
    ...{ may: OWNER, name: 'audit', columns: AUDIT_COLUMNS },
    list: (query) => listAudit(almanac, query),
  });
}

function gatewayRoutes(routes: Routes, almanac: Almanac): void {
  const list = () => listGatewayAccounts(almanac);
  routes.add('get', '/api/gateways', { may: WRITERS, answer: list });
  routes.add('post', '/api/gateways', {
    may: OWNER,
    asksAgain: true,
    did: 'connected a gateway account',
    body: pastedKeySchema,
    answer: async ({ body }) => ({ id: (await connectByKey(almanac, body.key, 'pasted key')).id }),
  });
  routes.add('post', '/api/gateways/hand-over', {
    may: OWNER,
    asksAgain: true,
    did: 'began the hand-over of a gateway account',
    givesSecret: true,
    answer: () => beginHandOver(almanac),
  });
  routes.add('post', '/api/gateways/hand-over/end', {
    may: OWNER,
    asksAgain: true,
    did: 'ended the hand-over of a gateway account',
    body: handOverSchema,
    answer: async ({ body }) => ({ id: (await endHandOver(almanac, body)).id }),
  });
  routes.add('get', '/api/gateways/:id/stops', {
    may: OWNER,
    answer: ({ params }) => whatStops(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/gateways/:id/test', {
    may: WRITERS,
    did: 'tested a gateway connection',
    answer: async ({ params }) => ({
      well: (await testConnection(almanac, await findAccount(params.id ?? ''))) === null,
    }),
  });
  routes.add('post', '/api/gateways/:id/rotate', {
    may: OWNER,
    asksAgain: true,
    did: 'rotated a webhook secret',
    answer: ({ params }) => rotateWebhookSecret(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/gateways/:id/disconnect', {
    may: OWNER,
    asksAgain: true,
    did: 'disconnected a gateway account',
    body: versionSchema,
    answer: ({ params, body }) => disconnect(almanac, params.id ?? '', body.version),
  });
  routes.add('post', '/api/gateways/:id/reader', {
    may: WRITERS,
    did: 'tried the card reader',
    answer: ({ params }) => askReader(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/gateways/:id/reader/:ask', {
    may: WRITERS,
    answer: ({ params }) => readReaderAsk(almanac, params.id ?? '', params.ask ?? ''),
  });
}
