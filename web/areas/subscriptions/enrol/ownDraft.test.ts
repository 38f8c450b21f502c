import { describe, expect, test } from 'vitest';
import type { RateView } from '../../../../server/plans/messages.ts';
import { enrolmentSchema } from '../../../../server/subscriptions/messages.ts';
import { NO_CARD } from '../../../parts/card.ts';
import { faultsOfOwnDraft, NOTHING_OWN, ownTermsOf, sayOwn, sentOwn, type OwnDraft } from './ownDraft.ts';
import { payingOf, type Pays } from './paying.ts';

const draft = (to: Partial<OwnDraft>): OwnDraft => ({ ...NOTHING_OWN, ...to });
const sound = { customer: { id: '1' }, rateId: '1', starts: '2027-01-04' };

describe('what is agreed with one customer alone, as it is typed', () => {
  test('nothing typed is nothing sent, computed or said', () => {
    expect(sentOwn(NOTHING_OWN, 'GBP')).toEqual({});
    expect(
      Object.values(ownTermsOf(NOTHING_OWN, 'GBP'))
        .flat()
        .filter((one) => one !== undefined),
    ).toEqual([]);
    expect([...faultsOfOwnDraft(NOTHING_OWN, 'GBP')]).toEqual([]);
    expect(sayOwn(NOTHING_OWN)).toEqual([]);
  });

  test.each<{ to: Partial<OwnDraft>; at: string }>([
    { to: { termDays: '400' }, at: 'own/termDays' },
    { to: { termDays: '3.5' }, at: 'own/termDays' },
    { to: { setUp: '1.234' }, at: 'own/setUp' },
    { to: { setUp: 'free' }, at: 'own/setUp' },
    { to: { off: '101' }, at: 'own/discount' },
    { to: { offAs: 'amount', off: '1.234' }, at: 'own/discount' },
    { to: { offPayments: '0' }, at: 'own/discount/payments' },
    { to: { untaxed: true }, at: 'own/noTaxBecause' },
    { to: { lines: [{ name: ' ', amount: '1.00', when: 'once' }] }, at: 'own/lines/0/name' },
    { to: { lines: [{ name: 'x', amount: '', when: 'once' }] }, at: 'own/lines/0/amount' },
  ])('$to is named beside $at, and left out of what is computed', ({ to, at }) => {
    const faults = faultsOfOwnDraft(draft(to), 'GBP');
    expect([...faults.keys()]).toEqual([at]);
    expect(() => ownTermsOf(draft(to), 'GBP')).not.toThrow();
  });

  test('whatever is good is what the server takes', () => {
    const own = draft({
      ...{ termDays: '30', billingDay: 'last', setUp: '0', untaxed: true, because: 'A charity' },
      ...{ off: '12.5', offPayments: '3', note: ' Thank you ' },
      lines: [{ name: ' Visit ', amount: '4.00', when: 'recurring' }],
    });
    expect([...faultsOfOwnDraft(own, 'GBP')]).toEqual([]);
    const sent = sentOwn(own, 'GBP');
    expect(sent).toEqual({
      ...{ termDays: 30, billingDay: 'last', setUp: '0', noTaxBecause: 'A charity', note: 'Thank you' },
      discount: { percent: '12.5', payments: 3 },
      lines: [{ name: 'Visit', amount: '4.00', when: 'recurring' }],
    });
    expect(enrolmentSchema.safeParse({ ...sound, own: sent }).success).toBe(true);
    expect(sayOwn(own)).toEqual([
      ...['billed on the last day', 'no set-up', 'a discount of its own', 'no tax', '30 days to pay'],
      ...['a line of its own', 'a note'],
    ]);
    // Yen have no decimals: what is good in pounds is not in yen.
    expect([...faultsOfOwnDraft(own, 'JPY').keys()]).toEqual(['own/lines/0/amount']);
  });
});

describe('the ways to pay', () => {
  const rate = {
    terms: {},
    options: { methods: ['card', 'invoice'], withoutMethod: 'needed' },
  } as unknown as RateView;
  const ways = (of: { hasCard: boolean; gateway?: object | null; pays?: Pays }) =>
    payingOf(rate, {
      pays: of.pays ?? null,
      card: NO_CARD,
      hasCard: of.hasCard,
      gateway: of.gateway as never,
    }).ways;

  test('a reader where there is one, no typing where the gateway takes no cards by phone', () => {
    const all = { reader: true, phone: true };
    expect(ways({ hasCard: true, gateway: all })).toEqual(['file', 'typed', 'reader', 'invoice']);
    expect(ways({ hasCard: false, gateway: all })).toEqual(['typed', 'reader', 'mail', 'link', 'invoice']);
    expect(ways({ hasCard: false, gateway: { reader: false, phone: false } })).toEqual([
      'mail',
      'link',
      'invoice',
    ]);
    // While nobody knows what the gateway can do, a card is typed.
    expect(ways({ hasCard: false, gateway: null })).toEqual(['typed', 'mail', 'link', 'invoice']);
  });

  test('a way that is not there any more gives way to the first there is', () => {
    const gateway = { reader: false, phone: true } as never;
    const paying = payingOf(rate, { pays: 'reader', card: NO_CARD, hasCard: true, gateway });
    expect([paying.way, paying.by, paying.takesCard]).toEqual(['file', 'card', false]);
  });
});
