import { randomBytes } from 'node:crypto';

/** How far the gateway's own checks of an account have come. */
export type Stage = 'checking' | 'asking' | 'charging' | 'ready';

/** An account at the gateway: whoever holds its secret key may charge in its name. */
export interface Account {
  readonly account: string;
  readonly name: string;
  readonly kind: 'card gateway' | 'bank debit gateway';
  readonly stage: Stage;
  readonly secretKey: string;
  readonly publicKey: string;
  /** Further secret keys, each given out by a hand-over and good until it is revoked. */
  readonly tokens: readonly string[];
  readonly webhook: {
    readonly url: string;
    readonly secret: string;
    /** Signed with too while a rotation is under way. */
    readonly earlier?: string;
  } | null;
  readonly abilities: {
    readonly methods: readonly string[];
    readonly currencies: readonly string[];
    readonly repeat: boolean;
    readonly phone: boolean;
    readonly reader: boolean;
    readonly fees: readonly {
      readonly method: string;
      readonly percent: string;
      readonly fixed: string;
      readonly currency: string;
    }[];
    readonly statementText: { readonly most: number; readonly pattern: string; readonly says: string };
  };
  readonly payouts: {
    readonly bank: string;
    readonly ending: string;
    readonly firstAfterDays: number;
    readonly rhythm: string;
  } | null;
}

const STAGES: Readonly<
  Record<Stage, { mayCharge: boolean; mayPayOut: boolean; says: string; asks: string[] }>
> = {
  checking: {
    mayCharge: false,
    mayPayOut: false,
    says: 'We are checking what you sent us. This takes a business day or two.',
    asks: [],
  },
  asking: {
    mayCharge: false,
    mayPayOut: false,
    says: 'We need something more from you.',
    asks: ['A proof of the business address, not older than three months'],
  },
  charging: {
    mayCharge: true,
    mayPayOut: false,
    says: 'You may charge. Payouts wait until the bank account is confirmed.',
    asks: ['A confirmation of the bank account'],
  },
  ready: { mayCharge: true, mayPayOut: true, says: 'Everything is in order.', asks: [] },
};

/** An account as its holder sees it: without its keys. */
export function factsOf({ account, name, kind, stage, publicKey, abilities, payouts }: Account): object {
  return { account, name, kind, publicKey, stage, ...STAGES[stage], abilities, payouts };
}

export const STAGE_NAMES = Object.keys(STAGES) as Stage[];

export const randomKey = () => randomBytes(24).toString('base64url');

/** Of accounts that take cards again and again, and send payers to their bank. */
const cards = {
  methods: ['card', 'online transfer'],
  repeat: true,
  phone: true,
  reader: true,
  currencies: ['GBP', 'EUR', 'USD', 'JPY', 'KWD'],
  fees: [
    { method: 'card', percent: '1.4', fixed: '0.20', currency: 'GBP' },
    { method: 'card', percent: '2.5', fixed: '0.25', currency: 'EUR' },
    { method: 'online transfer', percent: '0.3', fixed: '0.15', currency: 'GBP' },
  ],
  statementText: { most: 22, pattern: '^[A-Z0-9 .*-]+$', says: 'capitals, digits, spaces and . * -' },
};
const payouts = { bank: 'Tarn & Fell Bank', ending: '4417', firstAfterDays: 7, rhythm: 'every business day' };

/** The accounts that the stand-in begins with: one to use, and some that something is wrong with. */
export function firstAccounts(given: {
  readonly secret?: string;
  readonly public?: string;
  /** Of the account that takes bank debits. */
  readonly debitSecret?: string;
}): Account[] {
  const account = (facts: Pick<Account, 'account' | 'name'> & Partial<Account>): Account => ({
    kind: 'card gateway',
    stage: 'ready',
    secretKey: randomKey(),
    publicKey: randomKey(),
    tokens: [],
    webhook: null,
    abilities: cards,
    payouts,
    ...facts,
  });
  return [
    account({
      account: 'cards-main',
      name: 'Sample business, cards',
      ...(given.secret ? { secretKey: given.secret } : {}),
      ...(given.public ? { publicKey: given.public } : {}),
    }),
    account({
      account: 'debit-main',
      name: 'Sample business, bank debit',
      kind: 'bank debit gateway',
      ...(given.debitSecret ? { secretKey: given.debitSecret } : {}),
      abilities: {
        ...cards,
        methods: ['bank debit'],
        currencies: ['GBP', 'EUR'],
        phone: false,
        reader: false,
        fees: [{ method: 'bank debit', percent: '0.5', fixed: '0.10', currency: 'GBP' }],
        statementText: { most: 18, pattern: '^[A-Z0-9 ]+$', says: 'capitals, digits and spaces' },
      },
      payouts: { ...payouts, firstAfterDays: 10, rhythm: 'every Friday' },
    }),
    account({
      account: 'cards-once',
      name: 'Market stall, single payments',
      abilities: { ...cards, methods: ['card'], repeat: false, phone: false, currencies: ['GBP'] },
    }),
    account({
      account: 'cards-abroad',
      name: 'Sample business, cards abroad',
      abilities: { ...cards, currencies: ['EUR', 'USD', 'JPY', 'KWD'] },
    }),
    account({ account: 'cards-new', name: 'A new account', stage: 'checking', payouts: null }),
  ];
}
