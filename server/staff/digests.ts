import type { Transaction } from 'sequelize';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { Business } from '../business/Business.ts';
import { layOut } from '../notices/layOut.ts';
import { deliveryTo, queueStaffLetter } from './notices.ts';
import { Person } from './Person.ts';

interface Gathered {
  readonly kind: string;
  readonly plain: string;
}

/** Lines of one kind that a letter of the day shows; the rest is a number. */
const SHOWN = 20;

/** Whom a letter of the day is still to be written to, as the items of a step: everybody who may have something to read. */
export const DIGESTS_DUE = `
  select p.id::text as item from people p
  where p.left_at is null
    and (exists (select 1 from payments where paid_on = $businessDate)
      or exists (select 1 from staff_letters l where l.person_id = p.id and l.state = 'gathering' and l.written_on <= $businessDate))
    and not exists (select 1 from staff_letters l where l.once_key = 'digest:' || p.id || ':' || $businessDate::date::text)
  order by p.id`;

/**
 * Makes one letter of all that was gathered for a person up to the end of a business day, and of what came in on it. Nothing
 * to tell is no letter.
 */
export function sendDigest(almanac: Almanac, personId: string, businessDate: string): Promise<void> {
  return almanac.db.transaction(async (within) => {
    const person = await Person.findByPk(personId, { transaction: within, lock: true, rejectOnEmpty: true });
    if (person.leftAt !== null) return;
    const onceKey = `digest:${personId}:${businessDate}`;
    const written = 'select 1 from staff_letters where once_key = $onceKey';
    if (await almanac.db.row(written, { onceKey }, within)) return;
    const gathered = await almanac.db.rows<Gathered>(
      `update staff_letters set state = 'gathered'
       where person_id = $personId and state = 'gathering' and written_on <= $businessDate
       returning kind, plain`,
      { personId, businessDate },
      within,
    );
    const collected =
      deliveryTo(person, 'payment collected') === 'daily'
        ? await sayCollected(almanac, businessDate, within)
        : { count: 0, says: '' };
    const count = gathered.length + collected.count;
    if (count === 0) return;
    const { name } = await Business.findOne({ transaction: within, rejectOnEmpty: true });
    const subject = `${name}, ${sayDate(businessDate)}: ${count === 1 ? 'one thing' : `${count} things`} to know`;
    const kinds = [...new Set(gathered.map(({ kind }) => kind))].sort();
    const paragraphs = kinds.map((kind) => {
      const of = gathered.filter((one) => one.kind === kind);
      return sayKind(
        kind,
        of.length,
        of.slice(0, SHOWN).map(({ plain }) => plain),
      );
    });
    await queueStaffLetter(
      almanac,
      {
        onceKey,
        personId,
        toAddress: person.email,
        kind: 'digest',
        subject,
        writtenOn: businessDate,
        ...layOut({
          business: name,
          subject,
          paragraphs: [
            `Dear ${person.name},`,
            ...(collected.count > 0 ? [collected.says] : []),
            ...paragraphs,
          ],
        }),
      },
      within,
    );
  });
}

function sayKind(kind: string, count: number, shown: readonly string[]): string {
  const more =
    count > shown.length ? [`… and ${count - shown.length} more; the day sheet has them all.`] : [];
  return [`${kind[0]?.toUpperCase()}${kind.slice(1)} (${count})`, ...shown, ...more].join('\n');
}

/** What came in on a day: sums by currency, and the first payments. */
async function sayCollected(
  almanac: Almanac,
  businessDate: string,
  within: Transaction,
): Promise<{ count: number; says: string }> {
  const sums = await almanac.db.rows<{ currency: string; amount: string; count: number }>(
    `select currency, sum(amount)::text as amount, count(*)::int as count from payments
     where paid_on = $businessDate group by 1 order by 1`,
    { businessDate },
    within,
  );
  const first = await almanac.db.rows<{ customer: string; number: string; amount: string; currency: string }>(
    `select c.name as customer, i.prefix || i.number as number, p.amount::text, p.currency
     from payments p join invoices i on i.id = p.invoice_id join customers c on c.id = i.customer_id
     where p.paid_on = $businessDate order by i.number limit ${SHOWN}`,
    { businessDate },
    within,
  );
  const count = sums.reduce((sum, one) => sum + one.count, 0);
  const shown = first.map(
    ({ customer, number, amount, currency }) =>
      `${customer}, invoice ${number}: ${sayAmount(BigInt(amount), currency)} collected.`,
  );
  const total = sums.map(({ amount, currency }) => sayAmount(BigInt(amount), currency)).join(' and ');
  return { count, says: sayKind('payment collected', count, [`${total} in all.`, ...shown]) };
}
