import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import { afterAll, beforeAll, beforeEach, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import { changeSection, readSection } from '../settings/settings.ts';
import { verify } from '../verify/verify.ts';
import { turnOf } from './letters.sql.ts';
import { MailRoute } from './mailRoute.ts';
import { Mailing } from './mailing.ts';

/** A mail host that answers as a test asks it to, and remembers whatever it was handed. */
class Host {
  /** Messages by their Message-ID, in whole, each time they were handed over. */
  readonly taken = new Map<string, string[]>();
  connections = 0;
  /** What it says to a reader's address, as a reply code and words; null takes the letter. */
  answer: (to: string) => readonly [number, string] | null = () => null;
  private readonly server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    onConnect: (_session, done) => {
      this.connections += 1;
      done();
    },
    onRcptTo: ({ address }, _session, done) => {
      const says = this.answer(address);
      done(says ? Object.assign(new Error(says[1]), { responseCode: says[0] }) : null);
    },
    onData: (stream, _session, done) => {
      const parts: Buffer[] = [];
      stream.on('data', (part: Buffer) => parts.push(part));
      stream.on('end', () => {
        const text = Buffer.concat(parts).toString();
        const id = /^Message-ID:\s*(\S+)/im.exec(text)?.[1] ?? '';
        this.taken.set(id, [...(this.taken.get(id) ?? []), text]);
        done();
      });
    },
  });

  async open(): Promise<string> {
    const server = this.server.listen(0, '127.0.0.1');
    await once(server, 'listening');
    return `smtp://127.0.0.1:${(server.address() as AddressInfo).port}`;
  }

  close(): Promise<void> {
    return new Promise((resolve) => this.server.close(() => resolve()));
  }
}

const host = new Host();
let world: World;
let route: MailRoute;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'), { SMTP_URL: await host.open() });
  route = new MailRoute(world.almanac);
});
afterAll(async () => {
  route.close();
  await world.end();
  await host.close();
});

beforeEach(async () => {
  host.taken.clear();
  host.answer = () => null;
});
let month = 1;
/** So many people who subscribe on the day that is turned: a letter of their start and a receipt each. */
async function letters(people: number): Promise<number> {
  await world.enrol(Array.from({ length: people }, () => ({})));
  month += 1;
  await world.turnTo(`2027-${String(month).padStart(2, '0')}-01`);
  return waiting();
}

async function waiting(): Promise<number> {
  const row = await world.almanac.db.row<{ n: number }>(
    `select count(*)::int as n from letters where state = 'queued'`,
  );
  return row?.n ?? 0;
}
const byState = () =>
  world.almanac.db.rows<{ state: string; tries: number; n: number }>(
    `select state, tries, count(*)::int as n from letters group by 1, 2 order by 1, 2`,
  );
/** Whoever waits for another try may have it now. */
const wakeAll = () => world.almanac.db.rows(`update letters set send_after = null where state = 'queued'`);

test('letters share a few connections, and two workers send each of them once', async () => {
  const count = await letters(40);
  expect(count).toBeGreaterThanOrEqual(80);
  const before = host.connections;
  const [one, other] = [new MailRoute(world.almanac), new MailRoute(world.almanac)];
  const sent = await Promise.all([one, other].map((way) => new Mailing(world.almanac, way).round()));
  one.close();
  other.close();
  expect(sent.reduce((sum, n) => sum + n, 0)).toBe(count);
  expect(await waiting()).toBe(0);
  expect(host.taken.size).toBe(count);
  expect([...host.taken.values()].every((times) => times.length === 1)).toBe(true);
  // Eight each, whatever there is to send.
  expect(host.connections - before).toBeLessThanOrEqual(16);
});

test('a letter that goes out again after a crash is the same to the byte, under the same Message-ID', async () => {
  await letters(1);
  const bodies = async () => {
    await new Mailing(world.almanac, route).round();
    // What a mail program writes anew each time: the date, and the marks between the parts.
    return [...host.taken.entries()].map(([id, texts]) => [
      id,
      (texts.at(-1) ?? '').replace(/^Date: .*$/im, '').replace(/--_NmP-[0-9a-zA-Z_-]+/g, '--'),
    ]);
  };
  const first = await bodies();
  expect(first.length).toBeGreaterThan(0);
  // The answer of the mail server was lost: to us the letters are not sent. Since then their plan has another name.
  const ids = [...host.taken.keys()].map((id) => /letter-.*-(\d+)@/.exec(id)?.[1] ?? '');
  await world.almanac.db.rows(
    `update letters set state = 'queued', sent_at = null where id = any($ids::bigint[])`,
    { ids },
  );
  await world.almanac.db.rows(`update plans set name = name || ' (now otherwise)'`);
  expect(await bodies()).toEqual(first);
  expect([...host.taken.values()].every((times) => times.length === 2)).toBe(true);
});

test('a letter that a host puts off is tried later and later; the others go, and nobody is called undeliverable', async () => {
  await letters(4);
  host.answer = (to) => (to.startsWith('person0.') ? [451, 'Come again later'] : null);
  const mailing = new Mailing(world.almanac, route);
  await mailing.round();
  const waits = () =>
    world.almanac.db.rows<{ tries: number; minutes: number }>(
      `select tries, round(extract(epoch from send_after - now()) / 60)::int as minutes
       from letters where state = 'queued' order by id limit 1`,
    );
  expect(await waits()).toEqual([{ tries: 1, minutes: 1 }]);
  const left = await waiting();
  expect(left).toBeGreaterThan(0);
  expect(host.taken.size).toBeGreaterThan(left);
  for (const minutes of [2, 4, 8]) {
    await mailing.round();
    await wakeAll();
    await mailing.round();
    expect((await waits())[0]?.minutes).toBe(minutes);
  }
  host.answer = () => null;
  await wakeAll();
  await mailing.round();
  expect(await waiting()).toBe(0);
});

test('an address that does not exist is undeliverable and asks for a person; a host that is away is nobody’s fault', async () => {
  await letters(3);
  // 421: the host itself goes away.
  host.answer = () => [421, 'Going down'];
  await new Mailing(world.almanac, route).round();
  expect((await byState()).filter(({ state }) => state === 'undeliverable')).toEqual([]);
  const tried = await world.almanac.db.rows(`select 1 from letters where state = 'queued' and tries > 0`);
  expect(tried, 'a host that is away is not a try').toEqual([]);
  host.answer = (to) => (to.startsWith('person1.') ? [550, 'No such mailbox'] : null);
  await wakeAll();
  await new Mailing(world.almanac, route).round();
  expect(await waiting()).toBe(0);
  const refused = await world.almanac.db.rows<{ name: string }>(
    `select distinct c.id, c.name from letters l join customers c on c.id = l.customer_id where l.state = 'undeliverable'`,
  );
  expect(refused.length).toBeGreaterThan(0);
  expect(new Set(refused.map(({ name }) => name))).toEqual(new Set(['Person 1']));
  const needs = await world.almanac.db.rows(`select 1 from needs where kind = 'letter undeliverable'`);
  expect(needs, 'one for each of them, however many letters').toHaveLength(refused.length);
  expect((await verify(world.almanac)).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('a worker that is told to stop sends what it has in hand and takes no more, however many wait', async () => {
  const count = await letters(2);
  const { version, value } = await readSection(world.almanac, 'mail');
  await changeSection(world.almanac, 'mail', { version, value: { ...value, mostPerSecond: 1 } });
  const stopping = new AbortController();
  host.answer = () => {
    stopping.abort();
    return null;
  };
  const sent = await new Mailing(world.almanac, route).round(new Date(), stopping.signal);
  expect(sent).toBeGreaterThan(0);
  expect(sent).toBeLessThan(count);
  expect(await waiting()).toBe(count - sent);
});

test('all workers together keep to what the host takes in a second', async () => {
  const begins = await Promise.all([1, 2, 3].map(() => turnOf(world.almanac, 2)));
  const [first = 0, second = 0, third = 0] = begins.toSorted((a, b) => a - b);
  expect(second - first).toBeGreaterThan(1_900);
  expect(third - second).toBeGreaterThan(1_900);
});
