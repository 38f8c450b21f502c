import { Op, type Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { noteLawChanged } from '../forecast/altered.ts';
import { statementFaults } from '../gateways/abilities.ts';
import { RefusedCommand } from '../http/problem.ts';
import { USUAL_IDLE_MINUTES } from '../http/session.ts';
import { Ladder } from '../recovery/Ladder.ts';
import { seal, unseal } from '../secrets/seal.ts';
import {
  SWITCHED_LETTERS,
  USUAL_REMINDER_DAYS,
  type SectionName,
  type SectionValue,
  type SwitchedLetter,
} from './messages.ts';

/** Where a section is kept beside its stored value, and what else follows from a change of it. */
export interface SectionKeeper<Name extends SectionName> {
  /** The value of a section that nobody has set yet, or that lives elsewhere: `stored` is what the table has. */
  readonly read: (
    almanac: Almanac,
    stored: Partial<SectionValue<Name>> | null,
    within?: Transaction,
  ) => Promise<SectionValue<Name>>;
  /** Holds a new value against the rest, does what follows from it, and gives what is to be stored. */
  readonly change?: (
    almanac: Almanac,
    value: SectionValue<Name>,
    before: SectionValue<Name>,
    within: Transaction,
  ) => Promise<object>;
}

const business: SectionKeeper<'business'> = {
  async read(_almanac, stored, within) {
    const { name, homeCurrency, timeZone, statementText } = await theBusiness(within);
    return {
      legalName: '',
      address: '',
      country: '',
      taxNumber: '',
      language: 'en',
      contactAddress: '',
      replyAddress: '',
      ...stored,
      name,
      homeCurrency,
      timeZone,
      statementText,
    };
  },
  async change(almanac, value, before, within) {
    const { name, homeCurrency, timeZone, statementText, ...rest } = value;
    if (value.country !== before.country) await noteLawChanged(almanac, within);
    const faults = await statementFaults(almanac, statementText, within);
    if (faults !== null) throw new RefusedCommand(422, faults, '/value/statementText');
    const row = await theBusiness(within);
    await row.update({ name, homeCurrency, timeZone, statementText }, { transaction: within });
    return rest;
  },
};

const branding: SectionKeeper<'branding'> = {
  read: (_almanac, stored) =>
    Promise.resolve({ logo: null, icon: null, mainColour: '#0e6655', accentColour: '#b97a06', ...stored }),
  async change(almanac, value, _before, within) {
    for (const kind of ['logo', 'icon'] as const) {
      if (value[kind] === null) continue;
      const known = await almanac.db.row(
        'select 1 from uploads where id = $id and kind = $kind',
        { id: value[kind], kind },
        within,
      );
      if (!known)
        throw new RefusedCommand(422, 'This picture is not here. Upload it again.', `/value/${kind}`);
    }
    return value;
  },
};

const invoicing: SectionKeeper<'invoicing'> = {
  async read(almanac, stored, within) {
    const series = await almanac.db.row<{ prefix: string }>(
      'select prefix from invoice_series order by first_number desc limit 1',
      {},
      within,
    );
    const row = await theBusiness(within);
    return {
      paymentTermDays: 0,
      note: '',
      footer: '',
      fields: [],
      columns: 'amount',
      remindDaysBefore: USUAL_REMINDER_DAYS,
      ...stored,
      creditNotePrefix: row.creditNotePrefix,
      prefix: series?.prefix ?? '',
      nextNumber: Number(row.nextInvoiceNumber),
    };
  },
  /** A number is never lowered, so that none is given twice; a raised number or another prefix opens a new series. */
  async change(almanac, value, before, within) {
    const row = await Business.findOne({
      rejectOnEmpty: true,
      transaction: within,
      lock: within.LOCK.UPDATE,
    });
    const next = BigInt(value.nextNumber);
    if (next < row.nextInvoiceNumber) {
      throw new RefusedCommand(
        422,
        `The next number is ${row.nextInvoiceNumber} and can only be raised: a lower one would be given twice.`,
        '/value/nextNumber',
      );
    }
    if (next !== row.nextInvoiceNumber || value.prefix !== before.prefix) {
      await almanac.db.rows(
        `insert into invoice_series (first_number, prefix, began_on) values ($first, $prefix, $on)
         on conflict (first_number) do update set prefix = excluded.prefix, began_on = excluded.began_on`,
        { first: next, prefix: value.prefix, on: await businessDateOf(almanac, within) },
        within,
      );
      await row.update({ nextInvoiceNumber: next }, { transaction: within });
    }
    await row.update({ creditNotePrefix: value.creditNotePrefix }, { transaction: within });
    const { paymentTermDays, note, footer, fields, columns, remindDaysBefore } = value;
    return { paymentTermDays, note, footer, fields, columns, remindDaysBefore };
  },
};

const customers: SectionKeeper<'customers'> = {
  read: (_almanac, stored) =>
    Promise.resolve({
      serves: [],
      shipsTo: [],
      trialNotices: [],
      ask: {
        phone: 'no',
        organisation: 'no',
        address: 'no',
        country: 'no',
        language: 'no',
        tax_number: 'no',
      },
      fields: [],
      cardholder: 'no',
      ...stored,
    }),
  change(_almanac, value) {
    const { serves, shipsTo } = value;
    const outside = shipsTo.filter((code) => serves.length > 0 && !serves.includes(code));
    if (outside.length > 0) {
      throw new RefusedCommand(
        422,
        `Nobody in ${outside.join(', ')} is served, so nothing can be shipped there.`,
        '/value/shipsTo',
      );
    }
    return Promise.resolve(value);
  },
};

const PASSWORD = 'mail:password';

const mail: SectionKeeper<'mail'> = {
  async read(_almanac, stored, within) {
    const { senderAddress } = await theBusiness(within);
    const server = stored?.server ?? null;
    return {
      senderName: '',
      replyName: '',
      quietFrom: '',
      quietTo: '',
      mostPerSecond: null,
      ...stored,
      senderAddress,
      server: server && { ...server, password: '', hasPassword: server.password !== '' },
    };
  },
  async change(almanac, value, _before, within) {
    const row = await theBusiness(within);
    await row.update({ senderAddress: value.senderAddress }, { transaction: within });
    const { server, senderAddress: _, ...rest } = value;
    if (server === null) return { ...rest, server: null };
    const known = await almanac.db.row<{ value: { server?: StoredServer | null } }>(
      `select value from settings where section = 'mail'`,
      {},
      within,
    );
    const before = known?.value.server ?? null;
    // A kept password goes the way it was given for alone: to another server, port or user, or less protected, it must
    // be typed again.
    const isSameWay = (['host', 'port', 'security', 'user'] as const).every(
      (part) => before?.[part] === server[part],
    );
    const kept = before && isSameWay ? before.password : '';
    const { password, hasPassword: _has, ...facts } = server;
    return {
      ...rest,
      server: { ...facts, password: password === '' ? kept : seal(almanac, PASSWORD, password) },
    };
  },
};

/** The mail server as an address for the mailer, with its password opened; null where none is set here. */
export async function mailServerUrl(almanac: Almanac): Promise<string | null> {
  const row = await almanac.db.row<{ value: { server?: StoredServer | null } }>(
    `select value from settings where section = 'mail'`,
  );
  const server = row?.value.server;
  if (!server) return null;
  const scheme = server.security === 'tls' ? 'smtps' : 'smtp';
  const password = server.password === '' ? '' : unseal(almanac, PASSWORD, server.password);
  const user =
    server.user === '' ? '' : `${encodeURIComponent(server.user)}:${encodeURIComponent(password)}@`;
  const how =
    server.security === 'starttls' ? '?requireTLS=true' : server.security === 'none' ? '?ignoreTLS=true' : '';
  const host = server.host.includes(':') ? `[${server.host}]` : server.host;
  return `${scheme}://${user}${host}:${server.port}${how}`;
}
interface StoredServer {
  readonly host: string;
  readonly port: number;
  readonly security: 'tls' | 'starttls' | 'none';
  readonly user: string;
  readonly password: string;
}

const RECOVERY_LETTERS: readonly SwitchedLetter[] = [
  'payment declined',
  'payment still declined',
  'last reminder',
];
const ALL_ON = Object.fromEntries(Object.keys(SWITCHED_LETTERS).map((event) => [event, true])) as Record<
  SwitchedLetter,
  boolean
>;

const recovery: SectionKeeper<'recovery'> = {
  read: (_almanac, stored) => Promise.resolve({ letters: { ...ALL_ON, ...stored?.letters } }),
  /** Nobody lapses in silence: the letters of recovery are not all off while a ladder may end a subscription. */
  async change(_almanac, value, _before, within) {
    if (RECOVERY_LETTERS.some((event) => value.letters[event] !== false)) return value;
    const ends = await Ladder.findOne({
      where: { isCurrent: true, finalAction: { [Op.ne]: 'leave' } },
      order: ['name'],
      transaction: within,
    });
    if (!ends) return value;
    throw new RefusedCommand(
      422,
      `Nobody lapses in silence: leave at least one letter of recovery on, or let the ladder ${ends.name} leave all as it is.`,
      '/value/letters',
    );
  },
};

const calendar: SectionKeeper<'calendar'> = {
  read: (_almanac, stored) =>
    Promise.resolve({
      weekends: [{ country: '', days: ['sat', 'sun'] as ('sat' | 'sun')[] }],
      shifts: { card: 'none', 'bank debit': 'next', 'by invoice': 'none' },
      ...stored,
    }),
  async change(almanac, value, _before, within) {
    await noteLawChanged(almanac, within);
    return value;
  },
};

const taxing: SectionKeeper<'taxing'> = {
  read: (_almanac, stored) => Promise.resolve({ defaultTax: null, noTax: false, said: 'net', ...stored }),
  async change(almanac, value, _before, within) {
    if (value.defaultTax === null) return value;
    const known = await almanac.db.row(
      'select 1 from taxes where id = $id and retired_on is null',
      { id: value.defaultTax },
      within,
    );
    if (!known) throw new RefusedCommand(422, 'Choose one of the taxes.', '/value/defaultTax');
    return { ...value, noTax: false };
  },
};

const security: SectionKeeper<'security'> = {
  read: (_almanac, stored) =>
    Promise.resolve({ demandFactor: 'nobody', idleMinutes: USUAL_IDLE_MINUTES, ...stored }),
};

const sites: SectionKeeper<'sites'> = {
  read: (_almanac, stored) => Promise.resolve({ origins: [], ...stored }),
};

export const KEEPERS: { readonly [Name in SectionName]: SectionKeeper<Name> } = {
  business,
  branding,
  invoicing,
  customers,
  mail,
  recovery,
  calendar,
  taxing,
  security,
  sites,
};
