import { meaningOf } from '../../core/recovery/declineCodes.ts';
import { sayAmount } from '../../core/words/amount.ts';
import type { CaseMoment } from './messages.ts';

/** Something that happened to a case, as it is stored. */
export interface MomentRow {
  readonly on: string;
  readonly kind: Exclude<CaseMoment['kind'], 'opened' | 'closed'>;
  readonly what: string;
  readonly facts: Readonly<Record<string, string | number | null>>;
}

const TRIED: Readonly<Record<string, string>> = {
  renewal: 'when it was due',
  retry: 'by a retry',
  'new method': 'to another card, at once',
  'by the customer': 'by the customer',
  'by staff': 'by staff',
};
const CHANNELS: Readonly<Record<string, string>> = {
  customer: 'by the customer online',
  staff: 'by phone or post',
  reader: 'on the reader',
  import: 'by an import',
};

/** A moment of a case in words. */
export function sayMoment({ on, kind, what, facts }: MomentRow): CaseMoment {
  const word = (name: string) => String(facts[name] ?? '');
  const moment = (says: string, more: Partial<CaseMoment> = {}): CaseMoment => ({
    ...{ on, kind, says, beside: '', by: '', to: null, isToCome: false, ...more },
  });
  const sum = () => sayAmount(BigInt(word('amount')), word('currency'));
  const payment = facts.payment ? { to: `/payments/${word('payment')}` } : {};
  switch (kind) {
    case 'collected':
      return moment(
        `${sum()} collected ${word('means') === 'gateway' ? (TRIED[what] ?? '') : `by ${word('means')}`}`,
        { beside: `invoice ${word('invoice')}`, ...payment },
      );
    case 'declined':
      return moment(`${sum()} declined, ${TRIED[what] ?? ''}`, {
        beside: `${word('card')}: ${meaningOf(word('code')).says}`,
      });
    case 'under way':
      return moment(`${sum()} under way: the outcome is not known yet`, { beside: word('card') });
    case 'letter':
      return moment(word('subject'), {
        beside: `letter to ${word('to')}, ${word('state')}`,
        to: `/letters?letter=${word('letter')}`,
      });
    case 'rung':
      return moment(`Rung ${Number(facts.rung) + 1} of ${word('rungs')}: ${what}`, {
        beside: Number(facts.leg) === 0 ? '' : `${word('ladder')}, version ${word('version')}`,
      });
    case 'visit':
      return moment('The customer opened their page');
    case 'note':
    case 'call':
      return moment(what, { by: word('by') });
    case 'card':
      return moment(`${word('card')} was given`, { beside: CHANNELS[what] ?? '' });
    case 'message':
      return moment(word('says'), { by: what === 'in' ? 'the customer' : word('by') });
  }
}
