import { once } from 'node:events';
import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { AskedTooFast, GatewayAway, KeyRefused, NotAllowed, type ChargeRequest } from './port.ts';
import { StandInGateway } from './standInGateway.ts';

/*
 * What the adapter makes of answers that the stand-in never gives: of proxies, of gateways that break off, dribble or are
 * silent. The server here gives whatever it is told to.
 */
let server: Server;
let answer: (response: ServerResponse) => void;
let asked = 0;
const WAITS_MS = 300;

beforeAll(async () => {
  server = createServer((request, response) => {
    asked += 1;
    request.resume().on('end', () => answer(response));
  }).listen(0, '127.0.0.1');
  await once(server, 'listening');
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});

const gatewayAt = (port: number) =>
  new StandInGateway({
    address: `http://127.0.0.1:${port}`,
    secretKey: 'a-secret-key-of-a-test',
    timeoutMs: WAITS_MS,
  });
const gateway = () => gatewayAt((server.address() as AddressInfo).port);
const CHARGE: ChargeRequest = {
  ...{ idempotencyKey: 'one', token: 'card', amount: 1000n, currency: 'GBP', statementText: 'FENMARSH' },
  ...{ reference: 'invoice 1', channel: 'import', businessDate: '2027-01-04' },
};
const says = (status: number, body: unknown, headers: Record<string, string> = {}) => {
  answer = (response) =>
    response.writeHead(status, headers).end(typeof body === 'string' ? body : JSON.stringify(body));
};
const PROBLEM = { 'content-type': 'application/problem+json' };
const MADE = { id: 'c1', key: 'one', amount: '1000', currency: 'GBP', state: 'collected', code: '00' };

describe('an answer to a charge', () => {
  test.each([
    [201, MADE, {}, 'settled'],
    [402, { ...MADE, state: 'declined', code: '51' }, {}, 'settled'],
    // Not what was agreed on: nothing is concluded from it.
    [201, { ...MADE, amount: '10.00' }, {}, 'unknown'],
    [201, '', {}, 'unknown'],
    [200, MADE, {}, 'unknown'],
    [301, MADE, { location: 'http://127.0.0.1:1/' }, 'unknown'],
    [500, '<html>Oops</html>', { 'content-type': 'text/html' }, 'unknown'],
    [502, { detail: 'no' }, PROBLEM, 'unknown'],
    [422, { detail: 'no such card' }, PROBLEM, 'refused'],
    // The page of a proxy is not the gateway's word.
    [422, { detail: 'no such card' }, { 'content-type': 'application/json' }, 'unknown'],
    [404, '<html>Not here</html>', { 'content-type': 'text/html' }, 'unknown'],
  ])('%i %j %j is %s', async (status, body, headers, kind) => {
    says(status, body, headers);
    expect((await gateway().charge(CHARGE)).kind).toBe(kind);
  });

  test.each([
    [401, KeyRefused],
    [403, NotAllowed],
    [429, AskedTooFast],
    [503, GatewayAway],
  ])(
    '%i is trouble with the account; only the gateway itself says that it did nothing',
    async (status, trouble) => {
      for (const [headers, didNothing] of [
        [PROBLEM, true],
        [{ 'content-type': 'text/html' }, false],
      ] as const) {
        says(status, { detail: 'no' }, headers);
        const outcome = await gateway().charge(CHARGE);
        expect(outcome).toMatchObject({ kind: 'account', didNothing });
        expect(outcome.kind === 'account' && outcome.trouble).toBeInstanceOf(trouble);
      }
    },
  );
});

test.each([
  ['7', 7000, 7000],
  ['0', 0, 0],
  [new Date(Date.now() + 60_000).toUTCString(), 50_000, 60_000],
  [new Date(0).toUTCString(), 0, 0],
  ['soon', null, null],
  ['-1', null, null],
  ['1.5', null, null],
  ['99999999999', null, null],
])(
  'a gateway that is asked too fast and says Retry-After: %s is left alone for so long',
  async (header, least, most) => {
    says(429, { detail: 'slower' }, { ...PROBLEM, 'retry-after': header });
    const outcome = await gateway().charge(CHARGE);
    if (outcome.kind !== 'account' || !(outcome.trouble instanceof AskedTooFast))
      throw new Error(outcome.kind);
    const { restMs } = outcome.trouble;
    if (least === null || most === null) expect(restMs).toBeNull();
    else {
      expect(restMs).toBeGreaterThanOrEqual(least);
      expect(restMs).toBeLessThanOrEqual(most);
    }
  },
);

describe('a charge may have been made where', () => {
  const ends: Record<string, (response: ServerResponse) => void> = {
    'no answer comes': () => undefined,
    'the answer breaks off': (response) => {
      response.writeHead(201, { 'content-length': '100' }).write('{"id"');
      setImmediate(() => response.destroy());
    },
    'the connection is cut': (response) => response.destroy(),
    'the answer dribbles for longer than it is waited for': (response) => {
      response.writeHead(201);
      const drip = setInterval(() => response.write(' '), WAITS_MS / 10);
      response.on('close', () => clearInterval(drip));
    },
  };
  test.each(Object.keys(ends))('%s', async (how) => {
    answer = ends[how] ?? answer;
    expect(await gateway().charge(CHARGE)).toEqual({ kind: 'unknown' });
    // Asked for by its key it is not known either, and that is not "there is none".
    await expect(gateway().find('one', '2026-11-02')).rejects.toBeInstanceOf(GatewayAway);
  });

  test('but not where nobody was there to take it', async () => {
    const nobody = createServer().listen(0, '127.0.0.1');
    await once(nobody, 'listening');
    const { port } = nobody.address() as AddressInfo;
    await new Promise((closed) => nobody.close(closed));
    expect(await gatewayAt(port).charge(CHARGE)).toMatchObject({ kind: 'account', didNothing: true });
  });
});

test('a redirection is not followed: the key goes nowhere else', async () => {
  says(307, '', { location: `http://127.0.0.1:${(server.address() as AddressInfo).port}/elsewhere` });
  asked = 0;
  await gateway().charge(CHARGE);
  expect(asked).toBe(1);
});
