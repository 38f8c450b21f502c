import { existsSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express } from 'express';
import expressStaticGzip from 'express-static-gzip';
import { sendProblem } from './problem.ts';

/** Hands out the interface as it was built, and its one page for every address that is nothing else. */
export function serveInterface(app: Express, webFolder: string): void {
  const page = join(webFolder, 'index.html');
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
  app.use(express.static(webFolder, { index: false }));
  app.use((request, response, next) => {
    if (request.method !== 'GET') return next();
    if (!existsSync(page))
      return sendProblem(response, 503, 'The interface has not been built (npm run build).');
    response.set('Cache-Control', 'no-cache').sendFile(page);
  });
}
