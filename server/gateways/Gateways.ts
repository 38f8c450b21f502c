import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { unseal } from '../secrets/seal.ts';
import { GatewayAccount } from './GatewayAccount.ts';
import type { GatewayPort } from './port.ts';
import { StandInGateway } from './standInGateway.ts';

/** Where the sealed secrets of an account belong. */
export const keyPlace = (account: Pick<GatewayAccount, 'address' | 'account'>) =>
  `gateway key:${account.address} ${account.account}`;
export const webhookPlace = (account: Pick<GatewayAccount, 'address' | 'account'>) =>
  `gateway webhook:${account.address} ${account.account}`;

/** The gateway accounts that are connected, each with the way to it. */
export class Gateways {
  constructor(private readonly config: Almanac['config']) {}

  /** The way to an account by its address and key, connected or not yet. */
  at(address: string, secretKey: string): GatewayPort {
    return new StandInGateway({ address, secretKey, timeoutMs: this.config.GATEWAY_TIMEOUT_MS });
  }

  /** The way to a connected account. */
  of(account: GatewayAccount): GatewayPort {
    return this.at(account.address, unseal({ config: this.config }, keyPlace(account), account.secretKey));
  }

  /** The account that new cards are given to: the first connected that takes cards again and again, or any card account. */
  async forCards(within?: Transaction): Promise<GatewayAccount | null> {
    const connected = await this.connected(within);
    const takesCards = connected.filter(({ facts }) => facts.abilities?.methods.includes('card'));
    return takesCards.find(({ facts }) => facts.mayCharge && facts.abilities.repeat) ?? takesCards[0] ?? null;
  }

  /** The same, or a refusal that says what is missing. */
  async requireForCards(): Promise<{ account: GatewayAccount; gateway: GatewayPort }> {
    const account = await this.forCards();
    if (account === null) {
      throw new RefusedCommand(
        409,
        'No gateway that takes cards is connected. Connect one in Setup, Gateways.',
      );
    }
    return { account, gateway: this.of(account) };
  }

  connected(within?: Transaction): Promise<GatewayAccount[]> {
    return GatewayAccount.findAll({
      where: { disconnectedOn: null },
      order: ['id'],
      ...(within ? { transaction: within } : {}),
    });
  }
}
