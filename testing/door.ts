import request from 'supertest';
import type { Express } from 'express';
import { beginSession } from '../server/http/session.ts';
import { Person } from '../server/staff/Person.ts';
import type { Role } from '../server/staff/messages.ts';
import type { World } from './world.ts';

/** Somebody signed in, for tests of routes. */
export interface Inside {
  readonly person: Person;
  readonly cookie: string;
}

/** Makes a person of a role and signs them in, without a password. */
export async function signedIn(world: World, role: Role, name: string = role): Promise<Inside> {
  const person = await Person.create({ name, email: `${name.toLowerCase()}@staff.example`, role });
  let cookie = '';
  const response = { cookie: (called: string, value: string) => (cookie = `${called}=${value}`) };
  await beginSession(world.almanac.db, { get: () => '' } as never, response as never, person.id, false);
  return { person, cookie };
}

/** Asks a route as somebody, or as a stranger. */
export function asking(app: Express, cookie = '') {
  return (method: 'get' | 'post' | 'put' | 'delete', path: string, body?: object) => {
    const asked = request(app)[method](path).set('X-Almanac', '1').set('Cookie', cookie);
    return body === undefined ? asked : asked.send(body);
  };
}
