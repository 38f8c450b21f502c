import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { World } from '../../testing/world.ts';
import type { Almanac } from '../almanac.ts';
import { listCustomers } from '../customers/customers.ts';
import type { Bound } from '../db/database.ts';
import { listInvoices } from '../invoices/invoiceList.ts';
import { listLetters } from '../notices/letterbook.ts';
import { correctInvoice } from '../creditNotes/correctInvoice.ts';
import { listCreditNotes } from '../creditNotes/creditNoteList.ts';
import { listPayments } from '../payments/paymentList.ts';
import { listCases } from '../recovery/cases.ts';
import { caseQuery } from '../recovery/messages.ts';
import { readDayPart, readDaySheet, readRail } from '../run/daySheet.ts';
import { CANNOT_BE_CHARGED } from '../subscriptions/states.ts';
import { listSubscriptions } from '../subscriptions/subscriptions.ts';
import { find } from './find.ts';
import { listQuery, type ListQuery, type Page } from './list.ts';
import { byCustomer, readLongPage } from './longList.ts';
import { searchByCustomer, searchPatterns } from './search.ts';

let world: World;
beforeAll(async () => {
  world = await World.begin(inject('databaseUrl'));
  await world.enrol(Array.from({ length: 96 }, (_, i) => (i % 12 === 0 ? { code: '51' } : {})));
  await world.enrol([{}, {}, {}], { interval: 'P1W', ends: { after: 1 } });
  await world.turnTo('2027-01-13');
  const corrected = await world.almanac.db.rows<{ id: string }>(
    `select id::text from invoices where state = 'paid' order by id limit 50`,
  );
  for (const [i, { id }] of corrected.entries())
    await correctInvoice(world.almanac, id, {
      ...{ what: { kind: 'amount', amount: String(1 + (i % 7)) }, reason: 'Listed', writes: false },
    });
});
afterAll(() => world.end());

type List = (almanac: Almanac, query: ListQuery) => Promise<Page<{ readonly id: string }>>;
const LISTS: readonly {
  readonly name: string;
  readonly list: List;
  readonly sorts: readonly string[];
  readonly states: readonly string[];
  /** Counts those of `$state` in another way. */
  readonly count: string;
}[] = [
  {
    name: 'subscriptions',
    list: listSubscriptions,
    sorts: ['customer', 'plan', 'state', 'starts', 'next'],
    states: ['active', 'overdue'],
    count: 'select count(*)::int as n from subscriptions where state = $state',
  },
  {
    name: 'customers',
    list: listCustomers,
    sorts: ['name', 'email', 'since'],
    states: ['ended', 'active'],
    count: 'select count(distinct customer_id)::int as n from subscriptions where state = $state',
  },
  {
    name: 'cases',
    list: (almanac, query) => listCases(almanac, caseQuery.parse(query)),
    sorts: ['opened', 'customer', 'next', 'owed'],
    states: ['open', 'recovered'],
    count: 'select count(*)::int as n from recovery_cases where state = $state',
  },
  {
    name: 'invoices',
    list: listInvoices,
    sorts: ['number', 'due', 'issued', 'amount', 'owed', 'customer'],
    states: ['paid', 'open', 'overdue'],
    count: `select count(*)::int as n from invoices where case $state when 'paid' then state = 'paid'
      else state in ('issued', 'part-paid') and ($state = 'open' or due_on < (select business_date from business)) end`,
  },
  {
    name: 'credit notes',
    list: listCreditNotes,
    sorts: ['number', 'issued', 'amount', 'customer'],
    states: ['settlement', 'correction'],
    count: 'select count(*)::int as n from credit_notes where kind = $state',
  },
  {
    name: 'payments',
    list: listPayments,
    sorts: ['made', 'amount', 'customer'],
    states: ['collected', 'declined'],
    count: 'select count(*)::int as n from attempts where state = $state',
  },
  {
    name: 'letters',
    list: listLetters,
    sorts: ['written', 'customer'],
    states: ['payment declined', 'queued'],
    count: 'select count(*)::int as n from letters where $state in (event, state)',
  },
];
const asked = (query: Partial<ListQuery>) => ({ ...listQuery.parse({}), ...query });

describe.each(LISTS)('$name', ({ list, sorts, states, count }) => {
  test('its pages together are every row once, in one order, and the other way round the same', async () => {
    for (const sort of ['', ...sorts, ...sorts.map((one) => `-${one}`)]) {
      const inOrder: string[][] = [];
      // Everybody is called so: what is searched is found in one go, what is not is gone along.
      for (const search of ['', 'Person']) {
        const first = await list(world.almanac, asked({ sort, search }));
        const ids: string[] = [];
        for (let page = 1; page <= first.pages; page += 1)
          ids.push(...(await list(world.almanac, asked({ sort, search, page }))).rows.map(({ id }) => id));
        expect(ids.length, sort).toBe(first.total);
        expect(new Set(ids).size, sort).toBe(first.total);
        // A page beyond the last is the last.
        expect(
          (await list(world.almanac, asked({ sort, search, page: 9_999 }))).rows.map(({ id }) => id),
          sort,
        ).toEqual(ids.slice((first.pages - 1) * 40));
        inOrder.push(ids);
      }
      expect(inOrder[1], sort).toEqual(inOrder[0]);
    }
  });

  test('a filter gives those and no others, and what matches nothing is empty', async () => {
    for (const state of states) {
      const { total } = await list(world.almanac, asked({ state }));
      expect(total, state).toBe((await world.almanac.db.row<{ n: number }>(count, { state }))?.n);
    }
    const none = await list(world.almanac, asked({ search: 'nobody is called so' }));
    expect([none.total, none.pages, none.rows]).toEqual([0, 1, []]);
  });

  test('signs of patterns are looked for as they are written', async () => {
    for (const search of ['%', '_', '\\', '%%%', "'; drop table customers; --"])
      expect((await list(world.almanac, asked({ search }))).total, search).toBe(0);
  });
});

test('with fewer than three letters words are found by their beginnings, with more anywhere in them', async () => {
  expect(searchPatterns('wr')).toContain('% wr%');
  expect(searchPatterns('wre')).toEqual(['%wre%']);
  const count = async (search: string) => (await listCustomers(world.almanac, asked({ search }))).total;
  expect(await count('Pe')).toBe(99);
  expect(await count('erson')).toBe(99);
  expect(await count('rs')).toBe(0);
  expect(await count('Person 17')).toBe(1);
  // A name that ends in a number is no number of a document, unless there is one.
  for (const list of [listInvoices, listPayments, listCreditNotes]) {
    const { rows } = await list(world.almanac, asked({ search: 'Person 17' }));
    expect(rows.map(({ customer }) => customer)).toContain('Person 17');
  }
});

/** Tables that grow with the business: no question of a screen reads one of them through. */
const LARGE = [
  'subscriptions',
  'customers',
  'invoices',
  'attempts',
  'payments',
  'letters',
  'recovery_cases',
  'journal',
  'planned_charges',
  'payment_methods',
];

/** Asks something, and gives every statement that it put to the database. */
async function statementsOf(ask: (almanac: Almanac) => Promise<unknown>) {
  const put: { statement: string; bound: Readonly<Record<string, Bound>> }[] = [];
  const { almanac } = world;
  const db = Object.create(almanac.db) as Almanac['db'];
  db.rows = (statement, bound = {}, within) => {
    put.push({ statement, bound });
    return almanac.db.rows(statement, bound, within);
  };
  await ask({ ...almanac, db });
  return put;
}

// Receipts and paid invoices alone are left out: nearly all letters and invoices are, so that ten thousand are found by reading on.
const NEARLY_ALL = 'paid';

/** The large tables that a statement could only read through, whatever they hold. */
async function readThrough(statement: string, bound: Readonly<Record<string, Bound>>): Promise<string[]> {
  return world.almanac.db.transaction(async (within) => {
    // With this, a table is read through only where no index leads to what is asked.
    await world.almanac.db.rows('set local enable_seqscan = off', {}, within);
    const rows = await world.almanac.db.rows<{ 'QUERY PLAN': string }>(`explain ${statement}`, bound, within);
    return rows.flatMap((row) => /Seq Scan on (\w+)/.exec(row['QUERY PLAN'])?.[1] ?? []);
  });
}

test('every order, filter and search of every list, find, the rail and day sheets have indexes for large tables', async () => {
  const questions: [string, (almanac: Almanac) => Promise<unknown>][] = LISTS.flatMap(
    ({ name, list, sorts, states }) => [
      ...sorts.flatMap((sort): [string, (almanac: Almanac) => Promise<unknown>][] => [
        [`${name} by ${sort}`, (almanac) => list(almanac, asked({ sort }))],
        [
          `${name} by ${sort}, down, last page`,
          (almanac) => list(almanac, asked({ sort: `-${sort}`, page: 9_999 })),
        ],
      ]),
      ...states
        .filter((state) => state !== NEARLY_ALL)
        .map((state): [string, (almanac: Almanac) => Promise<unknown>] => [
          `${name} that are ${state}`,
          (almanac) => list(almanac, asked({ state })),
        ]),
      [`${name} searched`, (almanac) => list(almanac, asked({ search: 'Person 17' }))],
      [`${name} searched by two letters`, (almanac) => list(almanac, asked({ search: 'pe' }))],
    ],
  );
  questions.push(
    ['what cannot be charged', (almanac) => listSubscriptions(almanac, asked({ kind: CANNOT_BE_CHARGED }))],
    ['find', (almanac) => find(almanac, 'Person 17')],
    ['find a number', (almanac) => find(almanac, '12')],
    ['find a sum', (almanac) => find(almanac, '10.00')],
    ['the rail', (almanac) => readRail(almanac, '2027-01-01', '2027-02-11')],
    ['a day that is over', (almanac) => readDaySheet(almanac, '2027-01-05')],
    ['the business day', (almanac) => readDaySheet(almanac, '2027-01-13')],
    ['more rows of a day', (almanac) => readDayPart(almanac, '2027-01-05', 'failed', 2)],
  );
  const wrong: string[] = [];
  for (const [name, ask] of questions)
    for (const { statement, bound } of await statementsOf(ask)) {
      const tables = (await readThrough(statement, bound)).filter((table) => LARGE.includes(table));
      if (tables.length > 0)
        wrong.push(
          `${name} reads ${tables.join(', ')} through: ${statement.replace(/\s+/g, ' ').slice(0, 160)}`,
        );
    }
  expect(wrong).toEqual([]);
});

test('where more are found than are counted, each order is gone along, and gives the same rows as sorting them does', async () => {
  const { db } = world.almanac;
  const list = {
    ...{ from: 'letters l', alias: 'l', where: [`l.event = 'receipt' and l.id % 3 <> 0`] },
    shown: 'select l.id::text, l.written_on from letters l where l.id = any($ids::bigint[])',
    bound: {},
    orders: {
      written: { by: ['l.written_on'] },
      sent: { by: ['l.sent_at'], mayLack: true as const },
      customer: byCustomer('letters', 'l'),
    },
  };
  const sorted = await readLongPage<{ readonly id: string }>(db, list, { sort: '-written', page: 1 });
  expect(sorted.more).toBe(false);
  expect(sorted.total).toBeGreaterThan(45);
  for (const sort of ['', '-written', 'sent', '-sent', 'customer', '-customer'])
    for (const page of [1, 2]) {
      const ask = { sort, page };
      const all = await readLongPage<{ readonly id: string }>(db, list, ask);
      const counting = { ...list, mostCounted: 45 };
      const along = await readLongPage<{ readonly id: string }>(db, counting, ask);
      expect([along.more, along.total, along.pages]).toEqual([true, 45, 2]);
      const expected = all.rows.map(({ id }) => id).slice(0, page === 1 ? 40 : 5);
      expect(
        along.rows.map(({ id }) => id),
        `${sort}, page ${page}`,
      ).toEqual(expected);
    }
});

test.each([
  ['everybody', 'Person', [20, 60, 500]],
  ['many, spread over all', 'Person 1', [20, 60, 500]],
  ['few', 'Person 17', [20, 500]],
])(
  '%s is found the same whether by indexes, or by looking, or by looking in vain',
  async (_, text, looks) => {
    const { db } = world.almanac;
    const list = {
      ...{ from: 'letters l', alias: 'l', where: ['l.id % 2 = 0'] },
      shown: 'select l.id::text from letters l where l.id = any($ids::bigint[])',
      search: searchByCustomer('l'),
      bound: { patterns: searchPatterns(text) },
      orders: {
        written: { by: ['l.written_on'] },
        sent: { by: ['l.sent_at'], mayLack: true as const },
        customer: byCustomer('letters', 'l'),
        subject: { by: ['length(c.name)', 'c.name'], joins: 'join customers c on c.id = l.customer_id' },
      },
    };
    const read = (some: object, sort: string, page: number) =>
      readLongPage<{ readonly id: string }>(db, { ...list, ...some }, { sort, page });
    const ids = ({ rows }: Page<{ readonly id: string }>) => rows.map(({ id }) => id);
    for (const sort of Object.keys(list.orders).flatMap((one) => [one, `-${one}`])) {
      const all = [...ids(await read({}, sort, 1)), ...ids(await read({}, sort, 2))];
      const { total } = await read({}, sort, 1);
      expect(total).toBeGreaterThan(0);
      // Found and counted so far only, and looked at so many: few, so that what is sought is not among them, or all.
      for (const mostLookedAt of looks)
        for (const [mostCounted, mostFound] of [
          [3, 2],
          [3, 500],
          [45, 5],
          [45, 500],
        ] as const)
          for (const page of [1, 2]) {
            const some = await read({ mostCounted, mostLookedAt, mostFound }, sort, page);
            const says = `${sort}, ${page}: ${mostCounted} of ${mostLookedAt}, ${mostFound}`;
            expect(some.more, says).toBe(total > mostCounted);
            expect(some.total, says).toBe(Math.min(total, mostCounted));
            const from = (Math.min(page, some.pages) - 1) * 40;
            expect(ids(some), says).toEqual(all.slice(from, Math.min(from + 40, some.total)));
          }
    }
  },
);
