import type { Transaction } from 'sequelize';
import type { Config } from '../config.ts';
import { RefusedCommand } from '../http/problem.ts';
import { unseal } from '../secrets/seal.ts';
import { serves, type CardUse, type Taken } from './cardUse.ts';
import { GatewayAccount } from './GatewayAccount.ts';
import { Lanes } from './Lanes.ts';
import { Disconnected, type AccountTrouble, type GatewayPort } from './port.ts';
import { StandInGateway } from './standInGateway.ts';

/** Where the sealed secrets of an account belong. */
export const keyPlace = (account: Pick<GatewayAccount, 'address' | 'account'>) =>
  `gateway key:${account.address} ${account.account}`;
export const webhookPlace = (account: Pick<GatewayAccount, 'address' | 'account'>) =>
  `gateway webhook:${account.address} ${account.account}`;

type GatewayConfig = Pick<Config, 'ALMANAC_KEY' | 'GATEWAY_TIMEOUT_MS' | 'GATEWAY_LANES'>;

/** The gateway accounts that are connected, each with the way to it. */
export class Gateways {
  /** The accounts that could not be asked, where this is kept for a pass alone. */
  private readonly troubled: Map<string, AccountTrouble> | null;

  constructor(
    private readonly config: GatewayConfig,
    { remembersTrouble = false } = {},
    private readonly lanes = new Map<string, Lanes>(),
  ) {
    this.troubled = remembersTrouble ? new Map() : null;
  }

  /**
   * The same, for one pass over what is to be asked: an account that turns out to be in trouble is not asked again in
   * it, so that ten thousand charges of an account that is away take one question.
   */
  forOnePass(): Gateways {
    return new Gateways(this.config, { remembersTrouble: true }, this.lanes);
  }

  /** The lanes in which this process asks an account. */
  lanesOf({ id }: Pick<GatewayAccount, 'id'>): Lanes {
    const lanes = this.lanes.get(id) ?? new Lanes(this.config.GATEWAY_LANES);
    this.lanes.set(id, lanes);
    return lanes;
  }

  /** Why an account cannot be asked now, as far as that is known without asking; null where it may be. */
  troubleNow(account: GatewayAccount): AccountTrouble | null {
    if (account.disconnectedOn !== null) return new Disconnected();
    return this.troubled?.get(account.id) ?? null;
  }

  noteTrouble({ id }: GatewayAccount, trouble: AccountTrouble): void {
    this.troubled?.set(id, trouble);
  }

  /** The way to an account by its address and key, connected or not yet. */
  at(address: string, secretKey: string): GatewayPort {
    return new StandInGateway({ address, secretKey, timeoutMs: this.config.GATEWAY_TIMEOUT_MS });
  }

  /** The way to a connected account. */
  of(account: GatewayAccount): GatewayPort {
    return this.at(account.address, unseal({ config: this.config }, keyPlace(account), account.secretKey));
  }

  /** The account that a new card is given to, the best of {@link takers}. */
  async forCards(uses: readonly CardUse[] = [], within?: Transaction): Promise<GatewayAccount | null> {
    return (await this.takers('card', uses, within))[0] ?? null;
  }

  /**
   * The accounts that take cards, or bank debits, the best first: the one that serves the most uses, the first of them above
   * all; between equals, one that can charge again and again, then the one connected first.
   */
  async takers(taken: Taken, uses: readonly CardUse[] = [], within?: Transaction): Promise<GatewayAccount[]> {
    const connected = await this.connected(within);
    const able = connected.filter(({ facts }) => facts.abilities?.methods.includes(taken));
    const worth = (account: GatewayAccount) => {
      const served = uses.map((use, i) => (serves(account, use) ? (i === 0 ? uses.length : 1) : 0));
      const { mayCharge, abilities } = account.facts;
      return served.reduce<number>((sum, one) => sum + one, mayCharge && abilities.repeat ? 0.5 : 0);
    };
    return able.toSorted((a, b) => worth(b) - worth(a));
  }

  /**
   * The account that a new card, or a bank account, is given to, or a refusal that says what is missing.
   * @param id the one that staff chose; without it, the best
   */
  async requireFor(
    taken: Taken,
    uses: readonly CardUse[] = [],
    id?: string,
  ): Promise<{ account: GatewayAccount; gateway: GatewayPort }> {
    const takers = await this.takers(taken, uses);
    const account = id === undefined ? takers[0] : takers.find((one) => one.id === id);
    if (account) return { account, gateway: this.of(account) };
    const what = taken === 'card' ? 'cards' : 'bank debits';
    throw new RefusedCommand(
      409,
      id === undefined
        ? `No gateway that takes ${what} is connected. Connect one in Setup, Gateways.`
        : `The gateway account that was chosen takes no ${what}, or is not connected any more.`,
    );
  }

  connected(within?: Transaction): Promise<GatewayAccount[]> {
    return GatewayAccount.findAll({
      where: { disconnectedOn: null },
      order: ['id'],
      ...(within ? { transaction: within } : {}),
    });
  }
}
