import express, { type Express } from 'express';
import helmet from 'helmet';
import type { DestinationStream } from 'pino';
import type { Almanac } from '../almanac.ts';
import type { Config } from '../config.ts';
import { serveDocuments, servePictures } from '../branding/uploads.ts';
import { takeWebhooks } from '../gateways/webhook.ts';
import { takeOneClick } from '../notices/stopLetters.ts';
import { describeApi } from '../programs/openApi.ts';
import { programRoutes } from '../programs/programRoutes.ts';
import { readJson } from './body.ts';
import { Limits } from './limits.ts';
import { requestLog } from './log.ts';
import { moneyRoutes } from './moneyRoutes.ts';
import { operatorRoutes } from './operatorRoutes.ts';
import { peopleRoutes } from './peopleRoutes.ts';
import { problemHandler, sendProblem } from './problem.ts';
import { publicRoutes } from './publicRoutes.ts';
import { framingSites, signUpRoutes } from './signUpRoutes.ts';
import { serveInterface } from './serveInterface.ts';
import { Routes, type RouteTable } from './route.ts';
import { refuseForeignWrites, whoAsks } from './session.ts';
import { setupRoutes } from './setupRoutes.ts';

/** The web server: the interface's files, its API, customers' pages and the gateway's webhooks. */
export function makeApp(
  almanac: Almanac,
  config: Config,
  webFolder: string,
  logTo?: DestinationStream,
): { readonly app: Express; readonly table: RouteTable } {
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', config.TRUST_PROXY);
  const limits = new Limits(almanac.db);
  const secure = config.ALMANAC_URL.startsWith('https:');
  app.use(requestLog(config, logTo));
  app.use(securityHeaders(config));
  takeWebhooks(app, almanac);
  app.use(['/pictures', '/documents'], limits.perMinute('pictures', 600));
  app.use('/stop-letters', limits.perMinute('stop-letters', 120));
  takeOneClick(app, almanac);
  servePictures(app, almanac);
  serveDocuments(app, almanac);
  app.get('/health', async (_request, response) => {
    await almanac.db.rows('select 1 as well');
    response.json({ well: true });
  });

  app.use('/api', (_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  // Programs bear a key in a header, which no other site can make a browser send; cookies count for nothing there.
  const guards = express
    .Router()
    .use(refuseForeignWrites(new URL(config.ALMANAC_URL).origin), whoAsks(almanac.db, secure));
  app.use('/api/v1', limits.perMinute('programs', 1200));
  app.use('/api', (request, response, next) => {
    if (request.path.startsWith('/v1/')) next();
    else guards(request, response, next);
  });
  app.use('/api', readJson());
  const routes = new Routes(app, almanac);
  publicRoutes(app, routes, almanac, { demo: config.ALMANAC_DEMO, secure, limits });
  signUpRoutes(app, routes, almanac, { limits });
  operatorRoutes(app, routes, almanac);
  moneyRoutes(routes, almanac);
  setupRoutes(app, routes, almanac);
  peopleRoutes(routes, almanac);
  programRoutes(routes, almanac);
  const description = describeApi(routes.table, config.ALMANAC_URL);
  app.get('/api/openapi.json', (_request, response) => void response.json(description));
  app.use('/api', (_request, response) => sendProblem(response, 404, 'There is no such thing.'));

  serveInterface(app, webFolder, () => framingSites(almanac));
  app.use(problemHandler);
  return { app, table: routes.table };
}

function securityHeaders(config: Config) {
  const gateway = new URL(config.GATEWAY_URL).origin;
  const https = config.ALMANAC_URL.startsWith('https:');
  return helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'"],
        // The component library writes its styles into the page as it runs.
        styleSrc: ["'self'", "'unsafe-inline'"],
        fontSrc: ["'self'"],
        imgSrc: ["'self'", 'data:'],
        connectSrc: ["'self'", gateway],
        workerSrc: ["'self'"],
        frameSrc: ["'self'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: https,
    referrerPolicy: { policy: 'no-referrer' },
  });
}
