import { existsSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express } from 'express';
import expressStaticGzip from 'express-static-gzip';
import { sendProblem } from './problem.ts';

/**
 * Hands out the interface as it was built, and its one page for every address that is nothing else. Pages on which customers
 * join are a small program of their own, which may stand in frames of some sites.
 * @param framing the sites that may frame a sign-up page, as a source list of CSP
 */
export function serveInterface(
  app: Express,
  webFolder: string,
  framing: () => Promise<readonly string[]>,
): void {
  const page = join(webFolder, 'index.html');
  const joining = join(webFolder, 'join', 'index.html');
  // What everybody may read is compressed, and mostly was when it was built; answers that hold secrets are not
  // (RFC 7457, section 2.6).
  app.use(compression());
  app.use(
    '/assets',
    expressStaticGzip(join(webFolder, 'assets'), {
      enableBrotli: true,
      orderPreference: ['br', 'gz'],
      serveStatic: { immutable: true, maxAge: '1y', fallthrough: false },
    }),
  );
  app.use(
    '/join/assets',
    expressStaticGzip(join(webFolder, 'join', 'assets'), {
      enableBrotli: true,
      orderPreference: ['br', 'gz'],
      serveStatic: { immutable: true, maxAge: '1y', fallthrough: false },
    }),
  );
  // What sites load to show a page in a frame: any of them may, as the frame itself is what is guarded.
  app.get('/embed.js', (_request, response, next) => {
    response.set('Cross-Origin-Resource-Policy', 'cross-origin').set('Cache-Control', 'public, max-age=3600');
    next();
  });
  app.get(['/join/:key', '/join/:key/plans'], async (_request, response) => {
    if (!existsSync(joining)) return sendProblem(response, 503, 'The interface has not been built.');
    const sources = (await framing()).join(' ');
    const policy = String(response.getHeader('Content-Security-Policy'));
    response.removeHeader('X-Frame-Options');
    response
      .set('Content-Security-Policy', policy.replace(/frame-ancestors [^;]*/, `frame-ancestors ${sources}`))
      .set('Cache-Control', 'no-cache')
      .sendFile(joining);
  });
  app.use(express.static(webFolder, { index: false }));
  app.use((request, response, next) => {
    if (request.method !== 'GET') return next();
    if (!existsSync(page))
      return sendProblem(response, 503, 'The interface has not been built (npm run build).');
    response.set('Cache-Control', 'no-cache').sendFile(page);
  });
}
