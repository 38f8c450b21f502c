import express, { type Express } from 'express';
import { z } from 'zod';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import {
  badRowsOf,
  forgetImport,
  headingsOfBad,
  previewImport,
  readImport,
  startImport,
  takeImport,
} from '../imports/customerImports.ts';
import { lastImports } from '../imports/imports.sql.ts';
import { importMappingSchema, MOST_CUSTOMER_BYTES } from '../imports/messages.ts';
import { ofRoles } from './body.ts';
import { sendCsv } from './csv.ts';
import { WRITERS, type Routes } from './route.ts';

/** Bringing in customers from a spreadsheet: a file, its columns, a check, and then all of it or nothing. */
export function importRoutes(app: Express, routes: Routes, almanac: Almanac): void {
  const may = WRITERS;
  app.post('/api/imports', ofRoles(WRITERS, express.raw({ type: () => true, limit: MOST_CUSTOMER_BYTES })));
  routes.add('get', '/api/imports', { may, answer: () => lastImports(almanac) });
  routes.add('post', '/api/imports', {
    may,
    did: 'gave a file of customers',
    query: z.object({ name: z.string().trim().min(1).max(200).default('customers.csv') }),
    answer: ({ body, query }) => takeImport(almanac, query.name, body),
  });
  routes.add('get', '/api/imports/:id', {
    may,
    answer: ({ params }) => readImport(almanac, params.id ?? ''),
  });
  routes.add('delete', '/api/imports/:id', {
    may,
    did: 'forgot a file of customers',
    answer: ({ params }) => forgetImport(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/imports/:id/preview', {
    may,
    did: 'looked at how a file is understood',
    changesNothing: true,
    body: importMappingSchema,
    answer: ({ params, body }) => previewImport(almanac, params.id ?? '', body.mapping),
  });
  for (const [word, to, did] of [
    ['check', 'checking', 'began to check a file of customers'],
    ['start', 'importing', 'began to bring in a file of customers'],
  ] as const)
    routes.add('post', `/api/imports/:id/${word}`, {
      may,
      did,
      body: importMappingSchema,
      answer: ({ params, body }) => startImport(almanac, params.id ?? '', to, body.mapping),
    });
  routes.add('get', '/api/imports/:id/rows-to-mend.csv', {
    may,
    answer: async ({ params, response, signal }) => {
      const id = params.id ?? '';
      const headings = await headingsOfBad(almanac, id);
      const columns = Object.fromEntries(
        headings.map((heading, i) => [heading, (row: readonly string[]) => row[i] ?? '']),
      );
      await recordDone(almanac, { did: 'took rows of a file to mend them', subject: id });
      await sendCsv(response, 'rows to mend', columns, badRowsOf(almanac, id), signal);
    },
  });
}
