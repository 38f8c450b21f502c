import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { sayAmount } from '../../core/words/amount.ts';
import { sayDate } from '../../core/words/date.ts';
import type { Almanac } from '../almanac.ts';
import { likePattern, readPage, type ListQuery, type Page } from '../http/list.ts';
import type { Moment } from './contactMessages.ts';
import { MOMENTS, type MomentRow } from './timeline.sql.ts';

/** The one line of time of a customer: payments, invoices, letters, messages, changes, notes; the newest first. */
export async function readTimeline(
  almanac: Almanac,
  customerId: string,
  query: ListQuery,
): Promise<Page<Moment>> {
  const { kind, search } = query;
  const page = await readPage<MomentRow>(
    almanac.db,
    {
      select: MOMENTS,
      bound: { id: customerId, kind, pattern: search === '' ? '' : likePattern(search) },
      sorts: { on: '("on", at)' },
    },
    { ...query, sort: '-on' },
  );
  return { ...page, rows: page.rows.map(momentOf) };
}

function momentOf(row: MomentRow): Moment {
  const { id, on, kind } = row;
  return { id, on, kind, ...sayMoment(row) };
}

type Said = Pick<Moment, 'says' | 'beside' | 'to'>;

/** A moment in words, and where it stands. */
function sayMoment({ kind, what, facts }: MomentRow): Said {
  const word = (name: string) => String(facts[name] ?? '');
  const sum = () => sayAmount(BigInt(word('amount')), word('currency'));
  const subscription = facts.subscription ? `/subscriptions/${word('subscription')}` : null;
  switch (kind) {
    case 'payment':
      return {
        says: `${sum()} ${OUTCOMES[what] ?? what}, invoice ${word('invoice')}`,
        beside: what === 'declined' ? `${word('card')}: ${meaningOf(word('code')).says}` : word('card'),
        to: subscription,
      };
    case 'invoice':
      return {
        says: `${BigInt(word('amount')) < 0n ? 'Credit note' : 'Invoice'} ${word('invoice')}: ${sum()}`,
        beside: `due ${sayDate(word('due'))}, ${what}`,
        to: subscription,
      };
    case 'letter':
      return {
        says: word('subject'),
        beside: `to ${word('to')}, ${word('state')}`,
        to: `/letters?letter=${word('letter')}`,
      };
    case 'message':
      return { says: word('says'), beside: what === 'in' ? 'the customer' : word('by'), to: null };
    case 'change':
      return { ...sayChange(what, word), to: subscription };
    case 'method':
      return what === 'given'
        ? { says: `${word('card')} was given`, beside: CHANNELS[word('channel')] ?? '', to: null }
        : { says: `The mandate for ${word('card')} was withdrawn`, beside: `by ${word('by')}`, to: null };
    case 'note':
      return { says: word('says'), beside: word('by'), to: null };
    case 'need':
      return {
        says: word('says'),
        beside: facts.settled ? `seen to on ${sayDate(word('settled'))}` : 'waits for a person',
        to: null,
      };
  }
}

function sayChange(what: string, word: (name: string) => string): Pick<Said, 'says' | 'beside'> {
  const plan = word('plan');
  if (what === 'enrolled') {
    const by = word('by');
    return {
      says: `Enrolled: ${plan}, from ${sayDate(word('starts'))}`,
      beside: by === '' ? '' : `by ${by}`,
    };
  }
  if (what === 'ended' || what === 'lapsed') return { says: `${plan} ${what}`, beside: word('why') };
  const takenBack = word('takenBack');
  return {
    says: `${plan}: ${word('says')}, from ${sayDate(word('effective'))}`,
    beside: takenBack === '' ? `by the ${what}` : `taken back on ${sayDate(takenBack)}`,
  };
}

const OUTCOMES: Readonly<Record<string, string>> = {
  collected: 'collected',
  declined: 'declined',
  refused: 'refused by the gateway',
  'under way': 'under way',
};
const CHANNELS: Readonly<Record<string, string>> = {
  customer: 'by the customer online',
  staff: 'by phone or post',
  reader: 'on the reader',
  import: 'by an import',
};
