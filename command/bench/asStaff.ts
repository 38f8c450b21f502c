import { beginSession } from '../../server/http/session.ts';
import { Person } from '../../server/staff/Person.ts';
import type { Bench } from './BenchedBusiness.ts';

/** The cookie of somebody who may do everything in a business of a benchmark. */
export async function asStaff({
  almanac,
}: Bench): Promise<{ readonly name: string; readonly value: string }> {
  const email = 'bench@staff.example';
  const person =
    (await Person.findOne({ where: { email } })) ??
    (await Person.create({ name: 'Bench', email, role: 'owner' }));
  const cookie = { name: '', value: '' };
  const response = { cookie: (name: string, value: string) => Object.assign(cookie, { name, value }) };
  await beginSession(almanac.db, { get: () => '' } as never, response as never, person.id, false);
  return cookie;
}
