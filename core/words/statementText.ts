const MARK = 'TRIAL OVER';

/**
 * The text on the payer's bank statement, marked where the charge is the first real one after a trial, so that nobody
 * takes it for a charge they never agreed to. The mark is never cut; the business's own text gives way to it.
 * @param text what the bank statement usually shows
 * @param most how many signs the gateway takes
 * @example statementText('FENMARSH HIVES', true, 22) // 'FENMARSH HI TRIAL OVER'
 */
export function statementText(text: string, isFirstAfterTrial: boolean, most: number): string {
  if (!isFirstAfterTrial) return text;
  const left = most - MARK.length - 1;
  return left < 3 ? text : `${text.slice(0, left).trimEnd()} ${MARK}`;
}
