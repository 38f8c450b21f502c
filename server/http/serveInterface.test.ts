import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import express from 'express';
import helmet from 'helmet';
import request from 'supertest';
import { afterAll, expect, test } from 'vitest';
import { serveInterface } from './serveInterface.ts';

const SCRIPT = `export const words = '${'a long script. '.repeat(400)}';`;
const folder = mkdtempSync(join(tmpdir(), 'almanac-interface-'));
mkdirSync(join(folder, 'assets'));
writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Keen Almanac</title>');
writeFileSync(join(folder, 'assets', 'page-1.js'), SCRIPT);
writeFileSync(join(folder, 'assets', 'page-1.js.br'), brotliCompressSync(SCRIPT));
writeFileSync(join(folder, 'assets', 'page-1.js.gz'), gzipSync(SCRIPT));
afterAll(() => rmSync(folder, { recursive: true }));

const app = express();
mkdirSync(join(folder, 'join'));
writeFileSync(join(folder, 'join', 'index.html'), '<!doctype html><title>Join</title>');
app.use(
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: { defaultSrc: ["'none'"], frameAncestors: ["'none'"] },
    },
  }),
);
serveInterface(app, folder, () => Promise.resolve(["'self'", 'https://site.example']));
const script = (encodings: string) => request(app).get('/assets/page-1.js').set('Accept-Encoding', encodings);

test('a script is handed out as it was compressed when it was built, and kept for good', async () => {
  for (const [asked, given] of [
    ['gzip, deflate, br', 'br'],
    ['gzip', 'gzip'],
    ['identity', undefined],
  ] as const) {
    const answer = await script(asked).buffer(given !== 'br');
    expect(answer.headers['content-encoding'], asked).toBe(given);
    expect(answer.headers['content-type']).toMatch(/^(text|application)\/javascript/);
    expect(answer.headers['cache-control']).toBe('public, max-age=31536000, immutable');
    // A cache between keeps one for each.
    expect(answer.headers.vary).toMatch(/accept-encoding/i);
    if (given === 'br') expect(Number(answer.headers['content-length'])).toBeLessThan(SCRIPT.length / 4);
    else expect(answer.text).toBe(SCRIPT);
  }
});

test('a script that is not there is no page, and the page itself is asked for anew each time', async () => {
  expect((await request(app).get('/assets/page-0.js')).status).toBe(404);
  expect((await request(app).get('/assets/..%2findex.html')).status).toBe(403);
  const page = await request(app).get('/days/2027-01-01');
  expect([page.status, page.headers['cache-control']]).toEqual([200, 'no-cache']);
  expect(page.text).toContain('Keen Almanac');
});

test('sign-up pages alone may stand in frames, of the sites that are named and of no others', async () => {
  const [page, desk] = [await request(app).get('/join/orchard'), await request(app).get('/setup')];
  expect([page.status, page.text]).toEqual([200, '<!doctype html><title>Join</title>']);
  expect(page.headers['content-security-policy']).toBe(
    "default-src 'none';frame-ancestors 'self' https://site.example",
  );
  expect(page.headers['x-frame-options']).toBeUndefined();
  expect(desk.headers['content-security-policy']).toBe("default-src 'none';frame-ancestors 'none'");
  expect(desk.headers['x-frame-options']).toBe('SAMEORIGIN');
  // What is below a page is none.
  expect((await request(app).get('/join/orchard/plans/more')).text).toContain('Keen Almanac');
});
