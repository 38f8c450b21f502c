/** How a practice card behaves. Without `code` it approves. */
export interface Behaviour {
  /** ISO 8583 response code it declines with. */
  readonly code?: string;
  /** Declines on charges dated from this day, and before that day; everywhere between if both are given. */
  readonly from?: string;
  readonly until?: string;
  /** Declines only the first so many tries. */
  readonly firstTries?: number;
  /** Declines on the first day it is tried and approves from the next day on. */
  readonly firstDay?: boolean;
  /** Approves from this day of the month on until that one, both inclusive and over the end of the month. */
  readonly moneyFrom?: number;
  readonly moneyUntil?: number;
  /** When it has expired, it is issued anew by itself, with the same token, and its holder's firm is told. */
  readonly renews?: boolean;
  /** Declines charges only: it is well when zero is authorised. */
  readonly onlyCharges?: boolean;
  /** Makes the charge and never answers. */
  readonly silent?: boolean;
  /** Each charge waits until the cardholder has confirmed it, for some days; what else it does comes after that. */
  readonly confirms?: boolean;
  /** What is paid back takes days, or comes back. */
  readonly refunds?: 'take days' | 'come back';
}

export interface PracticeCard {
  readonly number: string;
  readonly network: string;
  readonly description: string;
  readonly behaviour: Behaviour;
}

const LARKFIELD = 'Larkfield';
const TIDEWELL = 'Tidewell';

/** Practice cards on made-up networks: they start with 9 and are valid by the Luhn check (ISO/IEC 7812-1). */
export const PRACTICE_CARDS: readonly PracticeCard[] = [
  card('917100000000001', LARKFIELD, 'Approves every charge', {}),
  card('927200000000001', TIDEWELL, 'Approves every charge', {}),
  card('917100000000051', LARKFIELD, 'Declines: not enough money in the account', { code: '51' }),
  card('917100000000052', LARKFIELD, 'Declines the first 2 tries for lack of money, then approves', {
    code: '51',
    firstTries: 2,
  }),
  card('917100000000053', LARKFIELD, 'There is money from the 25th to the 3rd of each month', {
    ...{ code: '51', moneyFrom: 25, moneyUntil: 3 },
  }),
  card('917100000000055', LARKFIELD, 'Is issued anew by itself when it expires', { renews: true }),
  card('917100000000054', LARKFIELD, 'Declines: the card has expired', { code: '54' }),
  card('927200000000041', TIDEWELL, 'Declines: the card was reported lost', { code: '41' }),
  card('927200000000070', TIDEWELL, 'Declines: the cardholder must confirm', { code: '70' }),
  card('927200000000072', TIDEWELL, 'Asks the cardholder to confirm each charge, for three days', {
    confirms: true,
  }),
  card('927200000000091', TIDEWELL, 'The bank is away today and approves from tomorrow', {
    code: '91',
    firstDay: true,
  }),
  card('927200000000060', TIDEWELL, 'Approves; what is paid back takes days', { refunds: 'take days' }),
  card('927200000000061', TIDEWELL, 'Approves; what is paid back comes back days later', {
    refunds: 'come back',
  }),
  card('927200000000099', TIDEWELL, 'Makes the charge but never answers', { silent: true }),
];

function card(body: string, network: string, description: string, behaviour: Behaviour): PracticeCard {
  return { number: body + luhnDigit(body), network, description, behaviour };
}

/** The check digit that makes a number valid by the Luhn check. */
function luhnDigit(body: string): string {
  const sum = [...body].reverse().reduce((total, digit, i) => {
    const value = Number(digit) * (i % 2 === 0 ? 2 : 1);
    return total + (value > 9 ? value - 9 : value);
  }, 0);
  return String((10 - (sum % 10)) % 10);
}

/** Whether a card number is valid by the Luhn check. */
export function passesLuhn(number: string): boolean {
  return /^\d{12,19}$/.test(number) && luhnDigit(number.slice(0, -1)) === number.slice(-1);
}
