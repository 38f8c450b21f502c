import express, { type Express } from 'express';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { changeCustomer, readCustomer } from '../customers/changeCustomer.ts';
import { contactSchema, noteSchema } from '../customers/contactMessages.ts';
import { addContact, addNote, changeContact, listContacts, removeContact } from '../customers/contacts.ts';
import { readCorrespondence, writeToCustomer } from '../customers/correspondence.ts';
import { creditStatement } from '../customers/creditStatement.ts';
import { allCustomers, listCustomers } from '../customers/customers.ts';
import { countLinks, revokeLinks } from '../customers/endLinks.ts';
import { effectOfErasing, eraseCustomer } from '../customers/erase.ts';
import { everythingOf } from '../customers/everything.ts';
import { goesWithSchema, MOST_FILE_BYTES, newFileQuery } from '../customers/fileMessages.ts';
import { keepFile, listFiles, readFile, removeFile, sendAhead, sendWith } from '../customers/files.ts';
import { effectOfMerging, mergeCustomers } from '../customers/merge.ts';
import { mergeSchema } from '../customers/mergeMessages.ts';
import { customerSchema, stoppedLettersSchema, toCustomerSchema } from '../customers/messages.ts';
import { readTimeline } from '../customers/timeline.ts';
import { debtsOf } from '../recovery/newMethod.ts';
import { versioned } from '../settings/messages.ts';
import { ofRoles } from './body.ts';
import { listQuery, ofCustomer } from './list.ts';
import { CUSTOMER_COLUMNS } from './listColumns.ts';
import { addList } from './listRoutes.ts';
import { RefusedCommand } from './problem.ts';
import { changeStoppedLetters, readStoppedLetters } from '../customers/stoppedLetters.ts';
import { EVERYONE_SIGNED_IN, OWNER, WRITERS, type Routes } from './route.ts';

/** Customers: all that is known of them, who stands beside them, and what happened with them. */
export function customerRoutes(app: Express, routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  addList(routes, almanac, '/api/customers', {
    ...{ may, name: 'customers', columns: CUSTOMER_COLUMNS, query: ofCustomer },
    list: (query) => listCustomers(almanac, query),
    all: (query) => allCustomers(almanac, query),
  });
  routes.add('get', '/api/customers/:id', {
    may,
    answer: ({ params }) => readCustomer(almanac, params.id ?? ''),
  });
  routes.add('put', '/api/customers/:id', {
    may: WRITERS,
    did: 'changed a customer',
    body: versioned(customerSchema),
    answer: ({ params, body }) => changeCustomer(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/customers/:id/stopped-letters', {
    may,
    answer: ({ params }) => readStoppedLetters(almanac, params.id ?? ''),
  });
  routes.add('put', '/api/customers/:id/stopped-letters', {
    may: WRITERS,
    did: 'changed which letters a customer gets',
    body: stoppedLettersSchema,
    answer: ({ params, body }) => changeStoppedLetters(almanac, params.id ?? '', body.stopped),
  });
  routes.add('get', '/api/customers/:id/everything.json', {
    may: WRITERS,
    answer: async ({ params, response }) => {
      const everything = await everythingOf(almanac, params.id ?? '');
      response.attachment(`customer ${params.id}.json`);
      return everything;
    },
  });
  routes.add('post', '/api/customers/:id/merge/effect', {
    may: WRITERS,
    did: 'looked at what putting two customers together would do',
    changesNothing: true,
    body: mergeSchema,
    answer: ({ params, body }) => effectOfMerging(almanac, params.id ?? '', body.from),
  });
  routes.add('post', '/api/customers/:id/merge', {
    may: WRITERS,
    did: 'put two customers together',
    body: mergeSchema,
    answer: ({ params, body }) => mergeCustomers(almanac, params.id ?? '', body.from),
  });
  routes.add('get', '/api/customers/:id/erasure', {
    may: OWNER,
    answer: ({ params }) => effectOfErasing(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/erasure', {
    may: OWNER,
    asksAgain: true,
    did: 'erased a customer',
    answer: ({ params }) => eraseCustomer(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/customers/:id/timeline', {
    may,
    query: listQuery,
    answer: ({ params, query }) => readTimeline(almanac, params.id ?? '', query),
  });
  routes.add('post', '/api/customers/:id/notes', {
    may: WRITERS,
    did: 'noted something',
    body: noteSchema,
    answer: ({ params, body }) => addNote(almanac, params.id ?? '', body),
  });
  routes.add('get', '/api/customers/:id/contacts', {
    may,
    answer: ({ params }) => listContacts(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/contacts', {
    may: WRITERS,
    did: 'added a contact',
    body: contactSchema,
    answer: ({ params, body }) => addContact(almanac, params.id ?? '', body),
  });
  routes.add('put', '/api/customers/:id/contacts/:contactId', {
    may: WRITERS,
    did: 'changed a contact',
    body: contactSchema,
    answer: ({ params, body }) => changeContact(almanac, params.id ?? '', digitsOf(params.contactId), body),
  });
  routes.add('delete', '/api/customers/:id/contacts/:contactId', {
    may: WRITERS,
    did: 'left out a contact',
    answer: ({ params }) => removeContact(almanac, params.id ?? '', digitsOf(params.contactId)),
  });
  routes.add('get', '/api/customers/:id/messages', {
    may,
    answer: ({ params }) => readCorrespondence(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/messages', {
    may: WRITERS,
    did: 'wrote to a customer',
    body: toCustomerSchema,
    answer: ({ params, body }) => writeToCustomer(almanac, params.id ?? '', body.says),
  });
  routes.add('get', '/api/customers/:id/debts', {
    may,
    answer: async ({ params }) => debtsOf(almanac, params.id ?? '', await businessDateOf(almanac)),
  });
  routes.add('get', '/api/customers/:id/credits', {
    may,
    answer: ({ params }) => creditStatement(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/customers/:id/links', {
    may,
    answer: ({ params }) => countLinks(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/links/end', {
    may: WRITERS,
    did: 'ended a customer’s links',
    answer: ({ params }) => revokeLinks(almanac, params.id ?? ''),
  });
  for (const path of ['/api/customers/:id/files', '/api/files'])
    app.post(path, ofRoles(WRITERS, express.raw({ type: () => true, limit: MOST_FILE_BYTES })));
  routes.add('post', '/api/files', {
    may: WRITERS,
    did: 'sent a document ahead of an enrolment',
    query: newFileQuery.pick({ name: true }),
    answer: ({ query, body }) => sendAhead(almanac, { ...query, bytes: body }),
  });
  routes.add('get', '/api/customers/:id/files', {
    may,
    answer: ({ params }) => listFiles(almanac, params.id ?? ''),
  });
  routes.add('post', '/api/customers/:id/files', {
    may: WRITERS,
    did: 'kept a document',
    query: newFileQuery,
    answer: ({ params, query, body }) => keepFile(almanac, params.id ?? '', { ...query, bytes: body }),
  });
  routes.add('get', '/api/customers/:id/files/:fileId', {
    may,
    answer: async ({ params, response }) => {
      const { name, mediaType, bytes } = await readFile(almanac, params.id ?? '', digitsOf(params.fileId));
      response
        .set('Content-Security-Policy', "default-src 'none'; sandbox")
        .attachment(name)
        .type(mediaType)
        .send(bytes);
    },
  });
  routes.add('put', '/api/customers/:id/files/:fileId', {
    may: WRITERS,
    did: 'chose what a document goes with',
    body: goesWithSchema,
    answer: ({ params, body }) => sendWith(almanac, params.id ?? '', digitsOf(params.fileId), body.goesWith),
  });
  routes.add('delete', '/api/customers/:id/files/:fileId', {
    may: WRITERS,
    did: 'threw away a document',
    answer: ({ params }) => removeFile(almanac, params.id ?? '', digitsOf(params.fileId)),
  });
}

/** The number of a thing inside of another, as a path names it. */
function digitsOf(id: string | undefined): string {
  if (!/^\d{1,18}$/.test(id ?? '')) throw new RefusedCommand(404, 'There is no such thing.');
  return id ?? '';
}
