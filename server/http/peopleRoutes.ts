import type { Response } from 'express';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import {
  codeSchema,
  invitationSchema,
  newPasswordSchema,
  noticesSchema,
  againSchema,
  personSchema,
} from '../staff/messages.ts';
import {
  changeNotices,
  changePassword,
  changePerson,
  invite,
  listInvitations,
  listPeople,
  listSessions,
  readMe,
  removePerson,
  revokeSession,
  withdrawInvitation,
} from '../staff/people.ts';
import { Person } from '../staff/Person.ts';
import { beginSecondFactor, confirmSecondFactor, turnOffSecondFactor } from '../staff/secondFactor.ts';
import { listViewSchema, viewsQuery } from '../staff/viewMessages.ts';
import { forgetView, listViews, saveView } from '../staff/views.ts';
import { requireProof } from '../staff/proof.ts';
import { signInAgain } from '../staff/signIn.ts';
import { countedTry } from '../staff/tries.ts';
import { RefusedCommand } from './problem.ts';
import { EVERYONE_SIGNED_IN, OWNER, type Routes } from './route.ts';
import { personOf, type SignedIn } from './session.ts';

/** Oneself, and for owners everybody else. */
export function peopleRoutes(routes: Routes, almanac: Almanac): void {
  const may = EVERYONE_SIGNED_IN;
  const me = (response: Response): SignedIn => {
    const person = personOf(response);
    if (!person) throw new RefusedCommand(401, 'Sign in first.');
    return person;
  };
  const readMyself = (response: Response) => readMe(almanac, me(response).id, me(response).sessionId);

  routes.add('get', '/api/me', { may, answer: ({ response }) => readMyself(response) });
  routes.add('post', '/api/session/again', {
    may,
    did: 'signed in again before something sensitive',
    givesSecret: true,
    body: againSchema,
    answer: ({ body, response }) => signInAgain(almanac, me(response), body),
  });
  routes.add('put', '/api/me/password', {
    may,
    did: 'changed their password',
    body: newPasswordSchema,
    answer: ({ body, response }) => changePassword(almanac, me(response), body),
  });
  routes.add('put', '/api/me/notices', {
    may,
    did: 'changed what they are told of',
    body: noticesSchema,
    answer: async ({ body, response }) => {
      await changeNotices(almanac, me(response).id, body);
      return readMyself(response);
    },
  });
  routes.add('post', '/api/me/second-factor', {
    may,
    did: 'began with a second factor',
    givesSecret: true,
    body: againSchema,
    answer: async ({ body, response }) =>
      beginSecondFactor(almanac, await requireProof(almanac, me(response), body)),
  });
  routes.add('post', '/api/me/second-factor/confirm', {
    may,
    did: 'turned the second factor on',
    givesSecret: true,
    body: codeSchema,
    answer: async ({ body, response }) => {
      const { id, sessionId } = me(response);
      const person = await Person.findByPk(id, { rejectOnEmpty: true });
      return countedTry(almanac, { email: person.email, sessionId }, () =>
        confirmSecondFactor(almanac, person, body.code),
      );
    },
  });
  routes.add('post', '/api/me/second-factor/off', {
    may,
    did: 'turned the second factor off',
    body: againSchema,
    answer: async ({ body, response }) =>
      turnOffSecondFactor(almanac, await requireProof(almanac, me(response), body)),
  });
  routes.add('delete', '/api/sessions/:id', {
    may,
    did: 'ended a session',
    answer: ({ params, response }) => revokeSession(almanac, params.id ?? '', me(response)),
  });

  routes.add('get', '/api/views', {
    may,
    query: viewsQuery,
    answer: ({ query, response }) => listViews(almanac, me(response).id, query.list),
  });
  routes.add('put', '/api/views', {
    may,
    did: 'saved a view of a list',
    body: listViewSchema,
    answer: ({ body, response }) => saveView(almanac, me(response).id, body),
  });
  routes.add('delete', '/api/views/:id', {
    may,
    did: 'left out a view of a list',
    answer: ({ params, response }) => forgetView(almanac, me(response).id, params.id ?? ''),
  });

  routes.add('get', '/api/people', { may: OWNER, answer: () => listPeople(almanac) });
  routes.add('get', '/api/sessions', {
    may: OWNER,
    answer: ({ response }) => listSessions(almanac, me(response).sessionId),
  });
  routes.add('put', '/api/people/:id', {
    may: OWNER,
    asksAgain: true,
    did: 'changed a person',
    body: personSchema,
    answer: ({ params, body }) => changePerson(almanac, params.id ?? '', body),
  });
  routes.add('delete', '/api/people/:id', {
    may: OWNER,
    asksAgain: true,
    did: 'removed a person',
    answer: ({ params }) => removePerson(almanac, params.id ?? ''),
  });
  routes.add('get', '/api/invitations', { may: OWNER, answer: () => listInvitations(almanac) });
  routes.add('post', '/api/invitations', {
    may: OWNER,
    asksAgain: true,
    did: 'invited a person',
    body: invitationSchema,
    answer: async ({ body }) => invite(almanac, body, await businessDateOf(almanac)),
  });
  routes.add('delete', '/api/invitations/:id', {
    may: OWNER,
    asksAgain: true,
    did: 'withdrew an invitation',
    answer: ({ params }) => withdrawInvitation(almanac, params.id ?? ''),
  });
}
