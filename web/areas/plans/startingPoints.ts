import { newDraft, NEW_LINE, type RateDraft } from './rate/draft.ts';
import type { PlanKind } from '../../../core/offer/kinds.ts';

export interface StartingPoint {
  readonly says: string;
  readonly kind: PlanKind;
  readonly rate: (currency: string, termDays: number) => RateDraft;
}

const line = (to: Partial<typeof NEW_LINE>) => ({ ...NEW_LINE, ...to });

/** Complete working examples to begin a plan from. */
export const STARTING_POINTS: Readonly<Record<string, StartingPoint>> = {
  membership: {
    says: 'A membership, monthly on the 1st',
    kind: 'membership',
    rate: (currency, termDays) => ({
      ...newDraft(currency, termDays),
      lines: [line({ name: 'Membership', amount: '12' })],
      anchor: { ...newDraft(currency, 0).anchor, kind: 'day', day: '1' },
      stub: 'prorate',
    }),
  },
  perUnit: {
    says: 'A service for each unit, cheaper the more there are, with a trial',
    kind: 'service',
    rate: (currency, termDays) => ({
      ...newDraft(currency, termDays),
      name: 'Monthly, for each',
      lines: [
        line({
          name: 'Service',
          scheme: 'each-tier',
          tiers: [
            { to: '3', each: '9', amount: '' },
            { to: '10', each: '8', amount: '' },
            { to: '', each: '7', amount: '' },
          ],
        }),
      ],
      trial: '14',
    }),
  },
  pack: {
    says: 'Goods by the pack, every three months',
    kind: 'goods',
    rate: (currency, termDays) => ({
      ...newDraft(currency, termDays),
      name: 'Quarterly, by the pack',
      lines: [line({ name: 'Packs', scheme: 'pack', amount: '24', size: '6' })],
      every: '3',
    }),
  },
  instalments: {
    says: 'Equipment in seven instalments',
    kind: 'goods',
    rate: (currency, termDays) => ({
      ...newDraft(currency, termDays),
      name: 'Seven instalments',
      lines: [line({ name: 'Equipment', scheme: 'instalments', amount: '250' })],
      ends: 'after',
      after: '7',
      endStub: 'whole',
    }),
  },
  gift: {
    says: 'A gift of one’s own amount, monthly',
    kind: 'donation',
    rate: (currency, termDays) => ({
      ...newDraft(currency, termDays),
      lines: [line({ name: 'Gift', scheme: 'chosen', amount: '10', min: '3' })],
    }),
  },
  fee: {
    says: 'A fee, once',
    kind: 'service',
    rate: (currency, termDays) => ({
      ...newDraft(currency, termDays),
      name: 'Once',
      kind: 'one-off',
      once: [{ name: 'Fee', amount: '40', date: '' }],
    }),
  },
};
