import { GatewayAccount } from '../../gateways/GatewayAccount.ts';
import { testConnection } from '../../gateways/health.ts';
import type { Step } from '../step.ts';
import { nobody } from './ofSubscription.ts';

/** Accounts that were in trouble are asked how they stand, before anything is charged at them. */
export const askGatewaysInTrouble: Step = {
  name: 'gateways in trouble',
  due: 'select id::text as item from gateway_accounts where disconnected_on is null and not well order by id',
  size: 10,
  subscriptionOf: nobody,
  async one({ almanac }, id) {
    const account = await GatewayAccount.findByPk(id, { rejectOnEmpty: true });
    const trouble = await testConnection(almanac, account);
    if (trouble) almanac.gateways.noteTrouble(account, trouble);
  },
};
