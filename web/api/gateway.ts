import { get, Problem, withQuery } from './client.ts';

export interface GatewayAddress {
  readonly id?: string;
  readonly name?: string;
  readonly url: string;
  readonly publicKey: string;
  /** It has a card reader, and takes cards told by phone or post; absent: it is not known. */
  readonly reader?: boolean;
  readonly phone?: boolean;
  /** Whether it asks for the name on a card. */
  readonly holder?: 'no' | 'optional' | 'required';
}

/** Where methods are given for a purpose: cards, other accounts that may keep them as well, and bank accounts. */
export interface GatewayAddresses {
  /** Cards are taken for it. */
  readonly takesCards: boolean;
  readonly gateway: GatewayAddress | null;
  readonly others: readonly GatewayAddress[];
  readonly bank: GatewayAddress | null;
}

export interface CardEntry {
  readonly number: string;
  readonly expiresMonth: number;
  readonly expiresYear: number;
  readonly holder?: string;
}

export interface PracticeCard {
  readonly number: string;
  readonly network: string;
  readonly description: string;
}

/** What a card is given for: a rate, and what a customer has already. Empty: nothing of the kind. */
export interface CardPurpose {
  readonly rateId?: string;
  readonly customerId?: string;
}

/** Where the address of the gateway for a purpose is asked for. */
export const pathOfGateway = (purpose: CardPurpose) => withQuery('/api/card-gateway', { ...purpose });

/**
 * Gives a card to the gateway that takes it for a purpose, and gets a token for it.
 * @param keptAt the account that staff chose; empty: the best
 */
export async function giveCard(
  purpose: CardPurpose,
  card: CardEntry,
  on: string,
  keptAt = '',
): Promise<string> {
  const { gateway, others } = await get<GatewayAddresses>(pathOfGateway(purpose));
  return tokenForCard(others.find(({ id }) => id === keptAt) ?? gateway, card, on);
}

/** Gives a bank account to the gateway and gets a token for it: its number goes from this browser straight there. */
export async function tokenForBank(
  gateway: GatewayAddress | null,
  { iban, holder }: { readonly iban: string; readonly holder: string },
): Promise<string> {
  if (gateway === null)
    throw new Problem(0, 'No gateway that takes bank debits for this is connected: see Setup, Gateways.', []);
  const given = await give(gateway, '/v1/bank-accounts', { iban, holder: holder.trim() });
  if (given.token) return given.token;
  const detail = given.detail ?? 'The bank account was not taken.';
  const pointer = given.field === 'holder' ? '/bank/holder' : '/bank/iban';
  throw new Problem(given.status, detail, [{ pointer, detail }]);
}

/** What a gateway answered to what was given to it. */
interface Given {
  readonly status: number;
  readonly token?: string;
  readonly detail?: string;
  readonly field?: string;
}

async function give(gateway: GatewayAddress, path: string, body: object): Promise<Given> {
  let response: Response;
  try {
    response = await fetch(new URL(path, gateway.url), {
      method: 'POST',
      headers: { Authorization: `Bearer ${gateway.publicKey}`, 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    });
  } catch {
    throw new Problem(0, 'The gateway cannot be reached just now. Try again in a minute.', []);
  }
  const { token, ...said } = (await response.json()) as Omit<Given, 'status'>;
  return { status: response.status, ...said, ...(response.ok && token ? { token } : {}) };
}

/**
 * Gives a card to the gateway and gets a token for it. The number goes from this browser straight to the
 * gateway; our own server never sees it.
 * @param on the business day, `YYYY-MM-DD`: a practice gateway has no clock of its own
 */
export async function tokenForCard(
  gateway: GatewayAddress | null,
  card: CardEntry,
  on: string,
): Promise<string> {
  if (gateway === null) {
    throw new Problem(0, 'No gateway that takes cards is connected: see Setup, Gateways.', []);
  }
  const given = await give(gateway, '/v1/cards', { ...card, on });
  if (given.token) return given.token;
  const detail = given.detail ?? 'The card was not taken.';
  throw new Problem(given.status, detail, [
    { pointer: given.field === 'expires' ? '/card/expires' : '/card/number', detail },
  ]);
}

export interface PracticeAccount {
  readonly iban: string;
  readonly description: string;
}

/** The bank accounts to practise with, by what they do. */
export async function practiceAccounts(gateway: GatewayAddress | null): Promise<PracticeAccount[]> {
  if (gateway === null) return [];
  const response = await fetch(new URL('/v1/practice-accounts', gateway.url));
  return response.ok ? ((await response.json()) as PracticeAccount[]) : [];
}

/** The cards to practise with, by what they do. */
export async function practiceCards(gateway: GatewayAddress | null): Promise<PracticeCard[]> {
  if (gateway === null) return [];
  const response = await fetch(new URL('/v1/practice-cards', gateway.url));
  return response.ok ? ((await response.json()) as PracticeCard[]) : [];
}
