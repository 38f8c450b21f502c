import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { RefusedCommand } from '../http/problem.ts';
import { unseal } from '../secrets/seal.ts';
import { serves, type CardUse } from './cardUse.ts';
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

  /**
   * The account that a new card is given to: of those that take cards the one that serves the most of its uses, the
   * first of them above all; between equals, one that can charge again and again, then the one connected first.
   */
  async forCards(uses: readonly CardUse[] = [], within?: Transaction): Promise<GatewayAccount | null> {
    const connected = await this.connected(within);
    const takesCards = connected.filter(({ facts }) => facts.abilities?.methods.includes('card'));
    const worth = (account: GatewayAccount) => {
      const served = uses.map((use, i) => (serves(account, use) ? (i === 0 ? uses.length : 1) : 0));
      const { mayCharge, abilities } = account.facts;
      return served.reduce<number>((sum, one) => sum + one, mayCharge && abilities.repeat ? 0.5 : 0);
    };
    return takesCards.toSorted((a, b) => worth(b) - worth(a))[0] ?? null;
  }

  /** The same, or a refusal that says what is missing. */
  async requireForCards(
    uses: readonly CardUse[] = [],
  ): Promise<{ account: GatewayAccount; gateway: GatewayPort }> {
    const account = await this.forCards(uses);
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
