import { outlineOf } from '../../core/listing/outline.ts';
import { formatDay } from '../../core/dates/day.ts';
import { firstDues, type FirstDue } from '../../core/listing/firstDues.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Terms } from '../../core/terms/schema.ts';
import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import type { Almanac } from '../almanac.ts';
import { linkForLetter, linkToken } from '../customers/link.ts';
import { patiently } from '../db/together.ts';
import { collectInvoice } from '../payments/collect.ts';
import { loadLaw, lawFactsOf } from '../subscriptions/law.ts';
import { Subscription } from '../subscriptions/Subscription.ts';
import { collectTogether } from './collectTogether.ts';
import type { Joined, SignUpPageValue } from './messages.ts';
import { documentsAt } from './publicPage.ts';

/** Charges of the future that whoever has joined is told of. */
const TOLD = 3;
/** So many charges are looked at. */
const SHOWN = 12;
/** Whoever joins waits at most so long for their bank; after that they are told that the charge is under way. */
const PATIENCE_MS = 5000;

/**
 * Invoices and collects what is due of a subscription that has just begun, in the very way and under the very keys that the run
 * would: whoever comes first does it. Trouble on the way is nobody's fault who joined; the run takes it up. A bank that takes
 * very long is waited for by the server alone.
 */
export async function collectFirst(almanac: Almanac, subscriptionId: string, on: string): Promise<void> {
  await patiently(PATIENCE_MS, collectAll(almanac, subscriptionId, on));
}

async function collectAll(almanac: Almanac, subscriptionId: string, on: string): Promise<void> {
  try {
    for (const invoiceId of await collectTogether(almanac, subscriptionId, on))
      await collectInvoice(almanac, {
        ...{ invoiceId, reason: 'renewal', channel: 'by itself', businessDate: on, occasion: 'renewal' },
      });
  } catch (error) {
    almanac.log.error({ err: error, subscriptionId }, 'what is due of who has just joined waits for the run');
  }
}

/** Somebody who has joined, as they are told. */
export interface ToldOf {
  readonly on: string;
  readonly language: PageLanguage;
  readonly currency: string;
  readonly dues: readonly FirstDue[];
  readonly trialEnds: string | null;
  /** The link to their own page; null in a rehearsal. */
  readonly linkId: string | null;
  readonly charged: Joined['charged'];
}

/** What is said to whoever has joined: what was charged, what comes, and what the business has for them. */
export async function presentJoined(almanac: Almanac, value: SignUpPageValue, of: ToldOf): Promise<Joined> {
  const { on, language, currency, dues, trialEnds, linkId, charged } = of;
  const texts = value.texts[language] ?? value.texts[value.language];
  return {
    ...{ currency, charged, trialEnds },
    coming: dues.filter(({ dueOn }) => dueOn > on).slice(0, TOLD),
    after: texts?.after ?? '',
    documents: await documentsAt(almanac, value.documents),
    redirect: value.redirect,
    own: linkId === null ? null : `/own/${linkToken(almanac, linkId, 'own')}`,
  };
}

/** The same of somebody who joined before, as it stands now: with a link of its own. */
export async function standingOf(
  almanac: Almanac,
  subscriptionId: string,
  on: string,
): Promise<Pick<ToldOf, 'currency' | 'dues' | 'trialEnds' | 'linkId'>> {
  const subscription = await Subscription.findByPk(subscriptionId, { rejectOnEmpty: true });
  const law = await loadLaw(almanac);
  const link = await almanac.db.transaction((within) => linkForLetter(subscription, on, within));
  return {
    currency: subscription.terms.currency,
    dues: firstDues(law.compile(await lawFactsOf(almanac, subscriptionId)), SHOWN),
    trialEnds: subscription.trialEndsOn,
    linkId: link.id,
  };
}

/** When the trial of terms ends; null: there is none. */
export function trialEndOf(terms: Terms): string | null {
  const { trialEnds } = outlineOf(compileTerms(terms));
  return trialEnds === null ? null : formatDay(trialEnds);
}

/**
 * What became of what was due at once; null where nothing was.
 * @param due what is due by now, where it could not be invoiced yet: the run does it
 */
export async function chargedOf(
  { db }: Almanac,
  subscriptionId: string,
  { on, due }: { readonly on: string; readonly due: bigint },
): Promise<Joined['charged']> {
  const row = await db.row<{
    owed: string;
    collected: string;
    method: string | null;
    underWay: boolean;
    unconfirmed: boolean;
    byHand: boolean;
  }>(
    `select coalesce(sum(i.collected), 0)::text as collected, s.collects = 'by hand' as "byHand",
       coalesce((select sum(d.owed) from open_dues d join invoices o on o.id = d.invoice_id
         where o.subscription_id = s.id and (d.due_on <= $on or s.collects = 'by hand')), 0)::text as owed,
       max(t.method) as method, coalesce(bool_or(t.under_way), false) as "underWay", coalesce(bool_or(t.unconfirmed), false) as unconfirmed
     from subscriptions s join invoices i on i.subscription_id = s.id
       left join lateral (
         select m.network || ' ending ' || m.last_four as method, a.state = 'under way' as under_way,
           a.state = 'under way' and a.waits_for is not null as unconfirmed
         from attempts a join payment_methods m on m.id = a.payment_method_id
         where a.invoice_id = i.id and a.state in ('collected', 'under way') order by a.id desc limit 1) t on true
     where s.id = $subscriptionId and i.issued_on <= $on and i.state <> 'withdrawn'
     group by s.id`,
    { subscriptionId, on },
  );
  if (!row) return due === 0n ? null : { amount: due.toString(), method: '', outcome: 'under way' };
  if (row.collected === '0' && row.owed === '0') return null;
  const { owed, collected, underWay, unconfirmed, byHand } = row;
  const method = row.method ?? '';
  if (owed === '0' || (collected !== '0' && !byHand))
    return { amount: collected, method, outcome: 'collected' };
  const waits = unconfirmed ? 'to confirm' : underWay ? 'under way' : 'declined';
  return { amount: owed, method, outcome: byHand ? 'by hand' : waits };
}
