import type { Almanac } from '../almanac.ts';
import type { GatewayAccountView } from './messages.ts';
import { GatewayAccount } from './GatewayAccount.ts';

/** Every account that is or was connected, those connected first. */
export async function listGatewayAccounts(almanac: Almanac): Promise<GatewayAccountView[]> {
  const accounts = await GatewayAccount.findAll({ order: ['id'] });
  const forCards = await almanac.gateways.forCards();
  const held = await almanac.db.rows<{ id: string; cards: number }>(
    `select gateway_account_id::text as id, count(*)::int as cards from payment_methods
     where state <> 'replaced' group by 1`,
  );
  const now = new Date();
  return accounts
    .map((account) => viewOf(account, forCards?.id === account.id, now, held))
    .sort((a, b) => Number(a.disconnectedOn !== null) - Number(b.disconnectedOn !== null));
}

function viewOf(
  account: GatewayAccount,
  takesNewCards: boolean,
  now: Date,
  held: readonly { id: string; cards: number }[],
): GatewayAccountView {
  const { earlierUntil, facts, address } = account;
  const page = (path: string) => new URL(path, address || 'http://gateway.invalid').href;
  return {
    id: account.id,
    account: account.account,
    name: account.name,
    kind: account.kind,
    address,
    connectedBy: account.connectedBy,
    connectedOn: account.connectedOn,
    disconnectedOn: account.disconnectedOn,
    facts,
    askedAt: account.askedAt.toISOString(),
    well: account.well,
    health: account.health,
    wellSince: account.wellSince.toISOString(),
    version: account.version,
    takesNewCards,
    earlierSecretUntil: earlierUntil && earlierUntil > now ? earlierUntil.toISOString() : null,
    cards: held.find(({ id }) => id === account.id)?.cards ?? 0,
    readerPage: facts.abilities?.reader ? page(`/reader/${encodeURIComponent(account.account)}`) : null,
    gatewayPage: page(`/accounts/${encodeURIComponent(account.account)}`),
  };
}
