/**
 * Which of a customer's methods a subscription is charged with, and in which order: the subscription's own, then the
 * customer's primary one, then the fallback. The one place that says so, for statements; see also `methodsInTurn`.
 * @param m the alias of the methods in the statement
 * @param s that of the subscription
 */
export const isOfSubscription = (m: string, s: string) =>
  `${m}.customer_id = ${s}.customer_id and ${m}.state <> 'replaced' and (${m}.role <> 'own' or ${m}.id = ${s}.own_method_id)`;

/** The order in which methods are tried; see {@link isOfSubscription}. */
export const inTurn = (m: string, s: string) =>
  `${m}.id is not distinct from ${s}.own_method_id desc, ${m}.role desc`;
