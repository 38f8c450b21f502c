/** A share of 0 to 1 in whole percent; one that is neither none nor all is not said to be. */
export function sayShare(share: number): string {
  if (share > 0 && share < 0.005) return 'under 1 %';
  if (share < 1 && share > 0.995) return 'over 99 %';
  return `${Math.round(share * 100)} %`;
}
