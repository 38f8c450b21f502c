/** The addresses of the pictures that stand in formatted text. */
export function addressesIn(html: string): string[] {
  return [...html.matchAll(/\/pictures\/([0-9a-f]{32})/g)].map(([, address = '']) => address);
}
