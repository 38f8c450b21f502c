import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import type { GatewayAccount } from './GatewayAccount.ts';

/** Why this text cannot stand on bank statements at the gateways connected, or null where it can. */
export async function statementFaults(
  almanac: Almanac,
  text: string,
  within?: Transaction,
): Promise<string | null> {
  for (const { name, facts } of await almanac.gateways.connected(within)) {
    const limits = facts.abilities?.statementText;
    if (!limits) continue;
    if (text.length > limits.most)
      return `${name} prints at most ${limits.most} characters; this has ${text.length}.`;
    if (!new RegExp(limits.pattern).test(text)) return `${name} prints only ${limits.says}.`;
  }
  return null;
}

/** What stops an account from taking charges by themselves, again and again, in a currency; null where nothing does. */
export function cannotRenew(account: GatewayAccount, currency: string): string | null {
  const { facts, name, well, health } = account;
  if (!well) return `${name} does not answer: ${health}`;
  if (!facts.mayCharge) return `${name} may not charge yet: ${facts.says}`;
  if (!facts.abilities.repeat) return `${name} cannot charge a card again by itself.`;
  if (!facts.abilities.currencies.includes(currency)) return `${name} takes no ${currency}.`;
  return null;
}
