import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import express, { type Express } from 'express';

/**
 * A business's own site, as anybody would have one: a few pages of its own, on another address than the almanac, that show
 * sign-up pages inside of them. `{{almanac}}` in a page is the address of the almanac.
 * @param folder where its pages are
 */
export function site(folder: string, almanac: string): Express {
  const app = express();
  app.disable('x-powered-by');
  app.get(['/', '/:page'], (request, response, next) => {
    const page = String(request.params.page ?? 'index.html');
    if (!/^[a-z-]+\.html$/.test(page)) return next();
    let text: string;
    try {
      text = readFileSync(join(folder, page), 'utf8');
    } catch {
      return next();
    }
    response.type('html').send(text.replaceAll('{{almanac}}', almanac));
  });
  app.use(express.static(folder));
  return app;
}
