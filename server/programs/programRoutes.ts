import { randomUUID } from 'node:crypto';
import { UniqueConstraintError } from 'sequelize';
import { z } from 'zod';
import { isCountry } from '../../core/words/countries.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import type { Bound } from '../db/database.ts';
import { RefusedCommand } from '../http/problem.ts';
import type { Routes } from '../http/route.ts';
import { newPlanSchema } from '../plans/messages.ts';
import { listPlans, makePlan } from '../plans/plans.ts';
import { enrolCustomer } from '../reckonings/enrolCustomer.ts';
import { enrolmentSchema } from '../subscriptions/messages.ts';
import {
  cursorQuery,
  customerResource,
  enrolled,
  invoiceResource,
  made,
  newCustomer,
  pageOf,
  planResource,
  subscriptionResource,
} from './resources.ts';

const CUSTOMER = `id::text, reference, name, email, country, organisation, created_on as "createdOn"`;
const SUBSCRIPTION = `id::text, customer_id::text as "customerId", rate_id::text as "rateId", state,
  service_stopped_on as "serviceStoppedOn", ended_why as "endedWhy", starts_on as "startsOn", ends_on as "endsOn", terms`;
const INVOICE = `id::text, prefix || number as number, subscription_id::text as "subscriptionId",
  customer_id::text as "customerId", issued_on as "issuedOn", due_on as "dueOn", period_from as "periodFrom",
  period_to as "periodTo", currency, net::text, tax::text, total::text, collected::text, state`;

const ofCustomer = cursorQuery.extend({
  customer: z
    .string()
    .regex(/^\d{1,18}$/)
    .optional()
    .meta({ description: 'Only those of this customer.' }),
});

/** The API for programs: what their keys allow. Lists go page by page with a cursor. */
export function programRoutes(routes: Routes, almanac: Almanac): void {
  routes.add('get', '/api/v1/plans', {
    may: { scope: 'plans.read' },
    says: 'List the plans with their rates',
    query: cursorQuery,
    gives: pageOf(planResource),
    answer: async ({ query }) => {
      const after = readCursor(query.after);
      const plans = (await listPlans(almanac, { search: '' }))
        .filter(({ id }) => BigInt(id) > BigInt(after))
        .sort((a, b) => (BigInt(a.id) < BigInt(b.id) ? -1 : 1));
      return page(
        plans.slice(0, query.limit + 1).map((plan) => planResource.parse(plan)),
        query.limit,
      );
    },
  });
  routes.add('post', '/api/v1/plans', {
    may: { scope: 'plans.write' },
    says: 'Make a plan with a rate',
    did: 'made a plan',
    body: newPlanSchema,
    gives: made,
    answer: ({ body }) => makePlan(almanac, body),
  });

  routes.add('get', '/api/v1/customers', {
    may: { scope: 'customers.read' },
    says: 'List the customers',
    query: cursorQuery,
    gives: pageOf(customerResource),
    answer: ({ query }) => list(almanac, CUSTOMER, 'customers', query),
  });
  routes.add('get', '/api/v1/customers/:id', {
    may: { scope: 'customers.read' },
    says: 'Read a customer',
    gives: customerResource,
    answer: ({ params }) => one(almanac, CUSTOMER, 'customers', params.id ?? ''),
  });
  routes.add('post', '/api/v1/customers', {
    may: { scope: 'customers.write' },
    says: 'Make a customer',
    did: 'made a customer',
    body: newCustomer,
    gives: made,
    answer: async ({ body }) => {
      if (body.country !== undefined && !isCountry(body.country))
        throw new RefusedCommand(422, 'Give a country of ISO 3166-1, such as GB.', '/country');
      const createdOn = await businessDateOf(almanac);
      const { country, reference, ...facts } = body;
      try {
        const customer = await Customer.create({
          ...facts,
          country: country ?? null,
          reference: reference ?? `new-${randomUUID()}`,
          createdOn,
        });
        await recordDone(almanac, { did: 'made a customer', subject: body.name, after: body });
        return { id: customer.id };
      } catch (error) {
        if (!(error instanceof UniqueConstraintError)) throw error;
        throw new RefusedCommand(409, 'There is a customer with this reference already.', '/reference');
      }
    },
  });

  routes.add('get', '/api/v1/subscriptions', {
    may: { scope: 'subscriptions.read' },
    says: 'List the subscriptions',
    query: ofCustomer,
    gives: pageOf(subscriptionResource),
    answer: ({ query }) => list(almanac, SUBSCRIPTION, 'subscriptions', query),
  });
  routes.add('get', '/api/v1/subscriptions/:id', {
    may: { scope: 'subscriptions.read' },
    says: 'Read a subscription',
    gives: subscriptionResource,
    answer: ({ params }) => one(almanac, SUBSCRIPTION, 'subscriptions', params.id ?? ''),
  });
  routes.add('post', '/api/v1/subscriptions', {
    may: { scope: 'subscriptions.write' },
    says: 'Enrol a customer',
    did: 'enrolled a customer',
    body: enrolmentSchema,
    gives: enrolled,
    answer: ({ body }) => enrolCustomer(almanac, body, 'program'),
  });

  routes.add('get', '/api/v1/invoices', {
    may: { scope: 'invoices.read' },
    says: 'List the invoices',
    query: ofCustomer,
    gives: pageOf(invoiceResource),
    answer: ({ query }) => list(almanac, INVOICE, 'invoices', query),
  });
  routes.add('get', '/api/v1/invoices/:id', {
    may: { scope: 'invoices.read' },
    says: 'Read an invoice',
    gives: invoiceResource,
    answer: ({ params }) => one(almanac, INVOICE, 'invoices', params.id ?? ''),
  });
}

type Table = 'customers' | 'subscriptions' | 'invoices';

async function list(
  almanac: Almanac,
  columns: string,
  table: Table,
  query: {
    readonly after?: string | undefined;
    readonly limit: number;
    readonly customer?: string | undefined;
  },
): Promise<{ data: { id: string }[]; next: string | null }> {
  const bound: Record<string, Bound> = { after: readCursor(query.after), most: query.limit + 1 };
  if (query.customer !== undefined) bound.customer = query.customer;
  const rows = await almanac.db.rows<{ id: string }>(
    `select ${columns} from ${table}
     where id > $after ${query.customer === undefined ? '' : 'and customer_id = $customer'}
     order by ${table}.id limit $most`,
    bound,
  );
  return page(rows, query.limit);
}

async function one(almanac: Almanac, columns: string, table: Table, id: string): Promise<object> {
  const row = await almanac.db.row(`select ${columns} from ${table} where id = $id`, { id });
  if (!row) throw new RefusedCommand(404, 'There is no such thing.');
  return row;
}

function page<Row extends { id: string }>(rows: readonly Row[], limit: number) {
  const data = rows.slice(0, limit);
  const last = data.at(-1);
  return {
    data,
    next: rows.length > limit && last ? Buffer.from(`after ${last.id}`).toString('base64url') : null,
  };
}

function readCursor(cursor: string | undefined): string {
  if (cursor === undefined) return '0';
  const [, id] = /^after (\d{1,18})$/.exec(Buffer.from(cursor, 'base64url').toString()) ?? [];
  if (id === undefined)
    throw new RefusedCommand(400, 'This cursor is none of ours: pass on what `next` gave.', '/after');
  return id;
}
