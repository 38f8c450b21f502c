import { get, Problem, withQuery } from './client.ts';

export interface GatewayAddress {
  readonly url: string;
  readonly publicKey: string;
  /** It has a card reader, and takes cards told by phone or post; absent: it is not known. */
  readonly reader?: boolean;
  readonly phone?: boolean;
}

export interface CardEntry {
  readonly number: string;
  readonly expiresMonth: number;
  readonly expiresYear: number;
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

/** Gives a card to the gateway that takes it for a purpose, and gets a token for it. */
export async function giveCard(purpose: CardPurpose, card: CardEntry, on: string): Promise<string> {
  const { gateway } = await get<{ gateway: GatewayAddress | null }>(pathOfGateway(purpose));
  return tokenForCard(gateway, card, on);
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
  let response: Response;
  try {
    response = await fetch(new URL('/v1/cards', gateway.url), {
      method: 'POST',
      headers: { Authorization: `Bearer ${gateway.publicKey}`, 'Content-Type': 'application/json' },
      body: JSON.stringify({ ...card, on }),
    });
  } catch {
    throw new Problem(0, 'The card service cannot be reached just now. Try again in a minute.', []);
  }
  const answered = (await response.json()) as { token?: string; detail?: string; field?: string };
  if (response.ok && answered.token) return answered.token;
  const detail = answered.detail ?? 'The card was not taken.';
  throw new Problem(response.status, detail, [
    { pointer: answered.field === 'expires' ? '/card/expires' : '/card/number', detail },
  ]);
}

/** The cards to practise with, by what they do. */
export async function practiceCards(gateway: GatewayAddress | null): Promise<PracticeCard[]> {
  if (gateway === null) return [];
  const response = await fetch(new URL('/v1/practice-cards', gateway.url));
  return response.ok ? ((await response.json()) as PracticeCard[]) : [];
}
