import { money, onDate, sentence } from '../../core/letters/said.ts';
import type { Transaction } from 'sequelize';
import type { z } from 'zod';
import { toDay } from '../../core/dates/day.ts';
import { parseDuration } from '../../core/dates/duration.ts';
import { inParts } from '../../core/money/inParts.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { Customer } from '../customers/Customer.ts';
import { linkForLetter } from '../customers/link.ts';
import { noteAltered } from '../forecast/altered.ts';
import { RefusedCommand } from '../http/problem.ts';
import { writeAbout } from '../notices/occasions.ts';
import { closeIfPaid } from '../recovery/closeCase.ts';
import { RecoveryCase } from '../recovery/RecoveryCase.ts';
import type { Subscription } from '../subscriptions/Subscription.ts';
import type { Invoice } from './Invoice.ts';
import { lockedInvoice, requireNothingUnderWay } from './lockInvoice.ts';
import type { splitSchema, SplitEffect } from './partMessages.ts';
import { writeDues } from './writeInvoices.ts';

type Wanted = z.output<typeof splitSchema>;

/** The first part is due at most so many days from now. */
const MOST_DAYS_AHEAD = 92;

interface Due {
  readonly place: number;
  readonly dueOn: string;
  readonly amount: bigint;
}

/** What splitting an invoice would do. Changes nothing. */
export function effectOfSplitting(almanac: Almanac, id: string, wanted: Wanted): Promise<SplitEffect> {
  return almanac.db.transaction(async (within) => (await prepare(almanac, id, wanted, within)).effect);
}

/**
 * Lets what is open of an invoice be paid in parts, each charged, reminded of and recovered by itself. The invoice stays as
 * it was issued; a case about it closes where nothing of it is due any more. The customer is written to.
 */
export function splitInParts(almanac: Almanac, id: string, wanted: Wanted): Promise<SplitEffect> {
  return almanac.db.transaction(async (within) => {
    const { subscription, invoice, dues, effect, today } = await prepare(almanac, id, wanted, within);
    await writeDues(
      almanac.db,
      dues.map(({ place, dueOn, amount }) => ({
        ...{ invoice_id: invoice.id, due_place: place, due_on: dueOn, amount },
      })),
      within,
    );
    noteAltered(within, subscription.id);
    await closeIfPaid(almanac, { subscription, invoice }, today, within);
    await tell(almanac, { subscription, invoice, effect, today }, within);
    return effect;
  });
}

async function prepare(almanac: Almanac, id: string, wanted: Wanted, within: Transaction) {
  const today = await businessDateOf(almanac, within);
  const { invoice, subscription } = await lockedInvoice(id, within);
  if (subscription.state === 'lapsed')
    throw new RefusedCommand(
      409,
      'It has lapsed: nothing is charged any more, and what is open is paid by hand.',
    );
  await requireSplittable(almanac, invoice, within);
  if (wanted.firstOn < today) throw new RefusedCommand(422, 'Choose today or a later day.', '/firstOn');
  if (toDay(wanted.firstOn) - toDay(today) > MOST_DAYS_AHEAD)
    throw new RefusedCommand(422, `At most ${MOST_DAYS_AHEAD} days from now.`, '/firstOn');
  const owed = invoice.owed;
  if (owed < BigInt(wanted.parts))
    throw new RefusedCommand(422, 'It is too little for so many parts.', '/parts');
  const every = parseDuration(wanted.every);
  if (!every) throw new Error(`${wanted.every} is no length.`);
  const parts = inParts(owed, wanted.parts, toDay(wanted.firstOn), every);
  const dues = await duesWith(almanac, invoice, parts, within);
  const open = await RecoveryCase.findOne({
    where: { id: invoice.caseId ?? '0', state: 'open' },
    transaction: within,
  });
  const effect: SplitEffect = {
    invoice: `${invoice.prefix}${invoice.number}`,
    currency: invoice.currency,
    parts: parts.map(({ dueOn, amount }) => ({ dueOn, amount: amount.toString() })),
    closesCase: open !== null && wanted.firstOn > today,
  };
  return { subscription, invoice, dues, effect, today };
}

/**
 * The dues of an invoice in parts: what was paid before is a due of its own. Where the whole was tried before, the parts are
 * numbered from 2, since an attempt at the first is known by the renewal.
 */
async function duesWith(
  almanac: Almanac,
  invoice: Invoice,
  parts: readonly { readonly dueOn: string; readonly amount: bigint }[],
  within: Transaction,
): Promise<Due[]> {
  const { total, owed, dueOn } = invoice;
  const tried = await almanac.db.row(
    'select 1 from attempts where invoice_id = $id',
    { id: invoice.id },
    within,
  );
  const paid = total > owed ? [{ place: 1, dueOn, amount: total - owed }] : [];
  const first = tried || paid.length > 0 ? 2 : 1;
  return [...paid, ...parts.map((part, i) => ({ ...part, place: first + i }))];
}

/** Refuses what is paid, stands for several payments already, or is being charged just now. */
async function requireSplittable(almanac: Almanac, invoice: Invoice, within: Transaction): Promise<void> {
  if (!['issued', 'part-paid'].includes(invoice.state) || invoice.owed <= 0n)
    throw new RefusedCommand(409, 'Nothing of this invoice is open.');
  const several = await almanac.db.row(
    'select from dues where invoice_id = $id limit 1',
    { id: invoice.id },
    within,
  );
  if (several) throw new RefusedCommand(409, 'It is paid in parts already.');
  await requireNothingUnderWay(almanac, invoice, within);
}

async function tell(
  almanac: Almanac,
  of: {
    readonly subscription: Subscription;
    readonly invoice: Invoice;
    readonly effect: SplitEffect;
    readonly today: string;
  },
  within: Transaction,
): Promise<void> {
  const { subscription, invoice, effect, today } = of;
  const { currency } = effect;
  const said = effect.parts.map(
    ({ dueOn, amount }) => `${sayAmount(BigInt(amount), currency)} on ${sayDate(dueOn)}`,
  );
  await writeAbout(
    almanac,
    subscription,
    {
      event: 'invoice in parts',
      onceKey: `in parts:${invoice.id}`,
      reason: 'An invoice is paid in parts',
      linkId: (await linkForLetter(subscription, today, within)).id,
      says: {
        invoice: effect.invoice,
        amount: money(invoice.owed, currency),
        period: {
          all: effect.parts.map(({ dueOn, amount }) =>
            sentence('amount on', { amount: money(BigInt(amount), currency), date: onDate(dueOn) }),
          ),
          joined: ',',
        },
        next:
          subscription.collects === 'by hand'
            ? sentence('pay on own page', {})
            : sentence('each charged by itself', {}),
      },
    },
    today,
    within,
  );
  const { name } = await Customer.findByPk(invoice.customerId, { transaction: within, rejectOnEmpty: true });
  await recordDone(
    almanac,
    {
      did: 'let an invoice be paid in parts',
      subject: name,
      after: { invoice: effect.invoice, parts: said },
    },
    within,
  );
}
