/**
 * Shares an amount over parts in proportion to their weights, to the minor unit and without loss: each
 * share is floored, then the parts with the largest remainders get one unit more each, of equal ones the
 * earlier (rules 5). Weights are not negative and the amount is at most their sum, so no share exceeds
 * its weight.
 * @example shareAmount(100n, [1000n, 1000n, 1000n]) // [34n, 33n, 33n]
 */
export function shareAmount(amount: bigint, weights: readonly bigint[]): bigint[] {
  if (weights.length === 1) return [amount];
  const total = weights.reduce((sum, weight) => sum + weight, 0n);
  if (total === 0n) return weights.map(() => 0n);
  const shares = weights.map((weight) => (amount * weight) / total);
  let left = amount - shares.reduce((sum, share) => sum + share, 0n);
  const byRemainder = weights
    .map((weight, index) => ({ index, remainder: (amount * weight) % total }))
    .sort((a, b) => (a.remainder === b.remainder ? a.index - b.index : a.remainder > b.remainder ? -1 : 1));
  for (const { index } of byRemainder) {
    if (left === 0n) break;
    shares[index] = (shares[index] ?? 0n) + 1n;
    left -= 1n;
  }
  return shares;
}
