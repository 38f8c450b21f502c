import { createHash } from 'node:crypto';
import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { FileLetters } from '../customers/fileMessages.ts';
import { unnested } from '../db/unnested.ts';
import { settingsOf } from '../settings/settings.ts';
import { isOptionalLetter } from '../../core/letters/events.ts';
import { fieldsIn, subjectOf, type LetterForm } from './compose.ts';
import { formsFor } from './formsFor.ts';
import type { LetterLook } from './layOut.ts';
import { lookOf } from './look.ts';
import { wantedBy } from './wantedBy.ts';
import type { LetterEvent, LetterSays } from './templates.ts';

export interface LetterToQueue {
  /** Names what the letter tells of: a second one under the same key is not written. */
  readonly onceKey: string;
  readonly event: LetterEvent;
  /** Why it was written, for the letterbook. */
  readonly reason: string;
  readonly says: LetterSays;
  readonly to: string;
  readonly customerId: string;
  readonly subscriptionId: string | null;
  readonly caseId?: string | null;
  readonly linkId?: string | null;
  /** The invoice, or the credit note, that goes with it as PDF. */
  readonly invoiceId?: string | null;
  readonly creditNoteId?: string | null;
  readonly writtenOn: string;
}

/** Whether letters of an event are on (Setup, Recovery). */
export async function isSwitchedOn(
  almanac: Almanac,
  event: LetterEvent,
  within?: Transaction,
): Promise<boolean> {
  const { letters } = await settingsOf(almanac, 'recovery', within);
  // Letters that cannot be switched off, such as of a change of terms, do not stand there.
  return (letters as Partial<Record<LetterEvent, boolean>>)[event] !== false;
}

/**
 * Writes a letter into the letterbook, where it waits to be sent, in the transaction of what it tells of.
 * Gives false where letters of this event are switched off.
 */
export function queueLetter(almanac: Almanac, letter: LetterToQueue, within: Transaction): Promise<boolean> {
  return queueLetters(almanac, letter.event, [letter], within);
}

/** The same for any number of letters of one event, in a fixed number of statements. */
export async function queueLetters(
  almanac: Almanac,
  event: LetterEvent,
  letters: readonly LetterToQueue[],
  within: Transaction,
): Promise<boolean> {
  if (!(await isSwitchedOn(almanac, event, within))) return false;
  if (letters.length === 0) return true;
  const forms = await formsFor(almanac, event, letters, within);
  const formIds = keepingFormIds(almanac);
  const lookId = await lookIdOf(almanac, await lookOf(almanac, within));
  const { table, bound } = unnested(
    {
      once_key: 'text',
      customer_id: 'bigint',
      subscription_id: 'bigint',
      case_id: 'bigint',
      link_id: 'bigint',
      reason: 'text',
      to_address: 'text',
      subject: 'text',
      fields: 'jsonb',
      written_on: 'date',
      invoice_id: 'bigint',
      credit_note_id: 'bigint',
      form_id: 'bigint',
      contact_form_id: 'bigint',
    },
    await Promise.all(
      letters.map(async (letter) => {
        const { form, manner } = forms.of(letter);
        const fields = fieldsIn(letter.says, manner);
        const ids = await formIds(form);
        return {
          once_key: letter.onceKey,
          customer_id: letter.customerId,
          subscription_id: letter.subscriptionId,
          case_id: letter.caseId ?? null,
          link_id: letter.linkId ?? null,
          reason: letter.reason,
          to_address: letter.to,
          subject: subjectOf(form, fields),
          fields: JSON.stringify(fields),
          written_on: letter.writtenOn,
          invoice_id: letter.invoiceId ?? null,
          credit_note_id: letter.creditNoteId ?? null,
          form_id: ids.own,
          contact_form_id: ids.contacts,
        };
      }),
    ),
  );
  await almanac.db.rows(
    `insert into letters (once_key, customer_id, subscription_id, case_id, link_id, event, reason, to_address,
                          subject, fields, written_on, invoice_id, credit_note_id, form_id, look_id, contact_id, files)
     select once_key, customer_id, subscription_id, case_id, link_id, $event, reason, to_address,
       subject, fields, written_on, invoice_id, credit_note_id, form_id, $lookId, contact_id,
       case when $goesWith::text is not null then (
         select array_agg(f.id order by f.id) from customer_files f where f.customer_id = written.customer_id
           and f.goes_with = $goesWith and (f.subscription_id is null or f.subscription_id = written.subscription_id)) end
     from (select x.once_key, x.customer_id, x.subscription_id, x.case_id, x.link_id, x.reason, x.to_address, x.subject, x.fields,
             x.written_on, x.invoice_id, x.credit_note_id, x.place, x.form_id, null::bigint as contact_id, 0 as copy
           from ${table}${ofThoseWhoWant(event)}
           union all
           -- Whoever stands beside the customer and wants such letters gets one too.
           select x.once_key || ':contact:' || k.id, x.customer_id, x.subscription_id, x.case_id, x.link_id, x.reason, k.email,
             x.subject, x.fields, x.written_on, x.invoice_id, x.credit_note_id, x.place, x.contact_form_id, k.id, 1
           from ${table} join contacts k on k.customer_id = x.customer_id
           where $wanted::text = any(k.letters) and lower(k.email) <> lower(x.to_address)
             ${event === 'receipt' ? `and k.receipts <> 'never'` : ''}) written
     order by place, copy, contact_id
     on conflict (once_key) do nothing`,
    { ...bound, event, lookId, wanted: wantedBy(event), goesWith: filesOf(event) },
    within,
  );
  if (event === 'receipt')
    await endReceipts(
      almanac,
      letters.map(({ customerId }) => customerId),
      within,
    );
  return true;
}

/** A customer who has stopped such letters, or wants no receipts, gets none. */
function ofThoseWhoWant(event: LetterEvent): string {
  if (!isOptionalLetter(event)) return '';
  const receipts = event === 'receipt' ? ` and c.receipts <> 'never'` : '';
  return ` join customers c on c.id = x.customer_id and not $event = any(c.stopped_letters)${receipts}`;
}

interface FormIds {
  readonly own: number;
  /** Of copies for contacts: somebody who stands beside the customer does not stop the letters of the customer. */
  readonly contacts: number;
}

/** The rows of forms, each asked for once however many letters are written by it. */
function keepingFormIds(almanac: Almanac): (form: LetterForm) => Promise<FormIds> {
  const asked = new Map<LetterForm, Promise<FormIds>>();
  const ask = async (form: LetterForm): Promise<FormIds> => {
    const own = await formIdOf(almanac, form);
    const contacts = form.template.unsubscribe ? await formIdOf(almanac, withoutStop(form)) : own;
    return { own, contacts };
  };
  return (form) => {
    const ids = asked.get(form) ?? ask(form);
    asked.set(form, ids);
    return ids;
  };
}

function withoutStop(form: LetterForm): LetterForm {
  const { unsubscribe: _, ...template } = form.template;
  return { ...form, template };
}

/** Whoever wanted a receipt of one payment has had it. */
async function endReceipts(
  { db }: Almanac,
  customerIds: readonly string[],
  within: Transaction,
): Promise<void> {
  const ids = [...new Set(customerIds)];
  const had = `set receipts = 'never', receipts_why = 'It was wanted once'`;
  await db.rows(
    `update customers ${had} where id = any($ids::bigint[]) and receipts = 'once'`,
    { ids },
    within,
  );
  await db.rows(
    `update contacts ${had} where customer_id = any($ids::bigint[]) and receipts = 'once' and 'payments' = any(letters)`,
    { ids },
    within,
  );
}

/** Which of a customer's documents go with letters of an event; null: none do. */
function filesOf(event: LetterEvent): FileLetters | null {
  if (event === 'started') return 'first letter';
  return OF_INVOICES.includes(event) ? 'invoices' : null;
}

const OF_INVOICES: readonly LetterEvent[] = ['invoice to pay', 'invoice in parts', 'receipt'];

const known = new WeakMap<object, Map<string, number>>();

/** The row of a form: kept under what it says, so that one that was changed is another. */
function formIdOf(almanac: Almanac, { event, language, layout, template }: LetterForm): Promise<number> {
  return keptOnce(
    almanac,
    JSON.stringify([event, language, layout, template]),
    `insert into letter_forms (hash, event, language, layout, form)
     values (decode($hash, 'hex'), $event, $language, $layout, $form::jsonb) on conflict do nothing`,
    `select id from letter_forms where hash = decode($hash, 'hex')`,
    { event, language, layout, form: JSON.stringify(template) },
  );
}

function lookIdOf(almanac: Almanac, look: LetterLook): Promise<number> {
  return keptOnce(
    almanac,
    JSON.stringify(look),
    `insert into letter_looks (hash, look) values (decode($hash, 'hex'), $look::jsonb) on conflict do nothing`,
    `select id from letter_looks where hash = decode($hash, 'hex')`,
    { look: JSON.stringify(look) },
  );
}

/** Outside of the caller's transaction: it stays, whatever becomes of the letter. */
async function keptOnce(
  { db }: Almanac,
  text: string,
  insert: string,
  select: string,
  bound: Readonly<Record<string, string | number>>,
): Promise<number> {
  const ids = known.get(db) ?? new Map<string, number>();
  known.set(db, ids);
  const hash = createHash('md5').update(text).digest('hex');
  const kept = ids.get(hash);
  if (kept !== undefined) return kept;
  await db.rows(insert, { hash, ...bound });
  const row = await db.row<{ id: number }>(select, { hash });
  if (!row) throw new Error('What letters are written by was not kept.');
  ids.set(hash, row.id);
  return row.id;
}
