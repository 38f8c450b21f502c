import { AccountTrouble } from '../server/gateways/port.ts';
import type { Finding } from '../server/verify/finding.ts';
import { mendForesight } from '../server/verify/foresight.ts';
import { verify } from '../server/verify/verify.ts';
import { openAlmanac } from './open.ts';
import { PlainFailure } from './sayAndExit.ts';

/**
 * `almanac verify`: names each breach of what must always be true, and fails if there is one.
 * @param mend first stores anew what can be computed from the rest: what is foreseen of subscriptions, the sums of days
 */
export async function verifyCommand({ mend = false }: { readonly mend?: boolean } = {}): Promise<void> {
  const almanac = await openAlmanac();
  try {
    if (mend) {
      await mendForesight(almanac, (done) => console.log(`${done} subscriptions were foreseen anew`));
      console.log('The sums of days were made anew.');
    }
    const findings = await verify(almanac);
    console.log(sayFindings(findings));
    if (findings.some(({ breaches }) => breaches.length > 0))
      throw new PlainFailure('Not everything is as it must be.');
  } catch (error) {
    if (error instanceof AccountTrouble)
      throw new PlainFailure('The gateway does not answer, so its record cannot be compared.');
    throw error;
  } finally {
    await almanac.db.close();
  }
}

/** The findings as lines: each rule with what it found. */
export function sayFindings(findings: readonly Finding[]): string {
  return findings
    .flatMap(({ rule, breaches }) => [
      `${breaches.length === 0 ? 'holds  ' : 'BROKEN '} ${rule}`,
      ...breaches.slice(0, 20).map((breach) => `         ${breach}`),
    ])
    .join('\n');
}
