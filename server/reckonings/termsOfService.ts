import type { Almanac } from '../almanac.ts';
import { askerNow } from '../audit/asker.ts';
import { recordDone } from '../audit/audit.ts';
import { Customer } from '../customers/Customer.ts';
import { RefusedCommand } from '../http/problem.ts';
import { policyInForce } from '../policies/policies.ts';
import { Subscription } from '../subscriptions/Subscription.ts';

/** The version of the terms of service that a customer is still asked to agree to for a subscription; null: none. */
export async function termsAsked(
  almanac: Almanac,
  subscriptionId: string,
  on: string,
): Promise<number | null> {
  const asked = await almanac.db.row(
    'select 1 from agreements where subscription_id = $subscriptionId and asks_terms and terms_agreed_on is null',
    { subscriptionId },
  );
  return asked ? ((await policyInForce(almanac, 'terms of service', on))?.version ?? null) : null;
}

/** Refuses what a customer may do only once they have agreed to the terms of service. */
export async function requireTermsAgreed(
  almanac: Almanac,
  subscriptionId: string,
  on: string,
): Promise<void> {
  if ((await termsAsked(almanac, subscriptionId, on)) !== null)
    throw new RefusedCommand(409, 'Agree to the terms of service first.', '/terms');
}

/**
 * Writes down that a customer agreed to the terms of service on their own page, from where, and to which version. Done again it
 * changes nothing.
 * @param version the one that they have read: where another is in force meanwhile, they are asked anew
 */
export async function agreeToTerms(
  almanac: Almanac,
  of: { readonly subscriptionId: string; readonly version: number },
  on: string,
): Promise<void> {
  const { subscriptionId, version } = of;
  const asked = await termsAsked(almanac, subscriptionId, on);
  if (asked === null) return;
  if (asked !== version)
    throw new RefusedCommand(
      409,
      'The terms of service were changed meanwhile: read them once more.',
      '/terms',
    );
  await almanac.db.transaction(async (within) => {
    const policy = await policyInForce(almanac, 'terms of service', on, within);
    const { address, agent } = askerNow();
    const agreed = await almanac.db.row(
      `update agreements set terms_agreed_on = $on, terms_policy_id = $policyId, terms_address = $address, terms_agent = $agent
       where subscription_id = $subscriptionId and terms_agreed_on is null returning 1`,
      { subscriptionId, on, policyId: policy?.id ?? null, address, agent: agent.slice(0, 300) },
      within,
    );
    if (!agreed) return;
    const { customerId } = await Subscription.findByPk(subscriptionId, {
      transaction: within,
      rejectOnEmpty: true,
    });
    const { name } = await Customer.findByPk(customerId, { transaction: within, rejectOnEmpty: true });
    const after = { version };
    await recordDone(almanac, { did: 'agreed to the terms of service', subject: name, after }, within);
  });
}
