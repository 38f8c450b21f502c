import { z } from 'zod';
import { createDocument, type ZodOpenApiPathsObject } from 'zod-openapi';
import type { RouteTable } from '../http/route.ts';
import { SCOPES } from './messages.ts';

const problem = z
  .object({
    type: z.string(),
    status: z.int(),
    detail: z.string().meta({ description: 'What is wrong, in a sentence.' }),
    errors: z
      .array(
        z.object({
          pointer: z.string().meta({ description: 'JSON Pointer to the field' }),
          detail: z.string(),
        }),
      )
      .optional(),
  })
  .meta({ id: 'Problem', description: 'A problem of RFC 9457.' });

/** The OpenAPI 3.1 description of the programs' API, made from the routes and schemas that serve it. */
export function describeApi(table: RouteTable, address: string): object {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const route of table) {
    if (typeof route.may !== 'object' || !('scope' in route.may)) continue;
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    const { scope } = route.may;
    const params = [...route.path.matchAll(/:(\w+)/g)].map(([, name = '']) => name);
    const query = route.query ? { query: route.query } : {};
    const pathShape = Object.fromEntries(
      params.map((name) => [name, z.string().meta({ description: 'Its identity' })]),
    );
    const key = z
      .string()
      .max(200)
      .optional()
      .meta({ description: 'Sent again with the same key, a request is done once.' });
    (paths[path] ??= {})[route.method] = {
      operationId: operationName(route.method, route.path),
      summary: route.says,
      description: `Needs the scope \`${scope}\`: ${SCOPES[scope]}.`,
      tags: [route.path.split('/')[3] ?? 'api'],
      security: [{ key: [] }],
      requestParams: {
        ...query,
        ...(params.length > 0 ? { path: z.object(pathShape) } : {}),
        ...(route.method === 'post' ? { header: z.object({ 'Idempotency-Key': key }) } : {}),
      },
      ...(route.body
        ? { requestBody: { required: true, content: { 'application/json': { schema: route.body } } } }
        : {}),
      responses: {
        [route.method === 'post' ? '201' : '200']: {
          description: route.method === 'post' ? 'It was made.' : 'What was asked for.',
          content: { 'application/json': { schema: route.gives ?? z.unknown() } },
        },
        '4XX': {
          description: 'What was asked cannot be done.',
          content: { 'application/problem+json': { schema: problem } },
        },
      },
    };
  }
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Keen Almanac',
      version: '1.0.0',
      description:
        'Plans, customers, subscriptions and invoices for programs. Amounts are in minor units; dates are civil dates of the business.',
      license: { name: 'MIT', identifier: 'MIT' },
    },
    servers: [{ url: address }],
    tags: ['plans', 'customers', 'subscriptions', 'invoices'].map((name) => ({
      name,
      description: `The ${name}.`,
    })),
    paths: paths as ZodOpenApiPathsObject,
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer', description: 'A key of Setup, API keys.' } },
    },
  });
}

function operationName(method: string, path: string): string {
  const [, , , resource = '', id] = path.split('/');
  const verb = method === 'post' ? 'make' : id ? 'read' : 'list';
  const noun = verb === 'list' ? resource : resource.replace(/s$/, '');
  return `${verb}${noun[0]?.toUpperCase() ?? ''}${noun.slice(1)}`;
}
