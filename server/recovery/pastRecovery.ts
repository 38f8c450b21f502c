import { toDay } from '../../core/dates/day.ts';
import { meaningOf } from '../../core/recovery/declineCodes.ts';
import type { LadderPolicy } from '../../core/recovery/ladder.ts';
import type { PastOutcome, PastRecovery } from '../../core/whatIf/history.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { theBusiness } from '../business/theBusiness.ts';
import type { ClosedHow } from './closedHow.ts';
import type { CaseState } from './messages.ts';
import { LADDERS_OF, PAST_DECLINES, PAST_RETRIES } from './pastRecovery.sql.ts';
import type { PastRecoveryView } from './pastRecoveryMessages.ts';
import { policyOf } from './standing.ts';

interface DeclineRow {
  readonly id: string;
  readonly failedOn: string;
  readonly code: string;
  readonly amount: string;
  readonly currency: string;
  readonly overOn: string;
  readonly state: CaseState;
  readonly closedHow: ClosedHow | null;
  readonly ladderId: string;
  readonly lettersOn: readonly string[];
}

interface RetryRow {
  readonly caseId: string;
  readonly on: string;
  readonly collected: boolean;
  readonly code: string;
  readonly retry: string;
}

/** What a case's end says of what may bring its money back. */
const OUTCOMES: Partial<Readonly<Record<ClosedHow, PastOutcome>>> = {
  retry: 'retried',
  'new method': 'mended',
  'by the customer': 'mended',
  transfer: 'mended',
  cash: 'mended',
  cheque: 'mended',
  other: 'mended',
  ladder: 'given up',
};

/** What the business has lived through of declined payments, the latest of them: nobody's name is in it. */
export async function readPastRecovery(almanac: Almanac): Promise<PastRecoveryView> {
  const today = await businessDateOf(almanac);
  const { homeCurrency } = await theBusiness();
  const rows = await almanac.db.rows<DeclineRow>(PAST_DECLINES, { today });
  const ids = rows.map(({ id }) => id);
  const retries = await almanac.db.rows<RetryRow>(PAST_RETRIES, { ids });
  const ladderIds = [...new Set(rows.map(({ ladderId }) => ladderId))];
  const ladders = await almanac.db.rows<LadderPolicy & { id: string }>(LADDERS_OF, { ids: ladderIds });
  const placeOf = new Map(ladders.map(({ id }, at) => [id, at]));
  const byCase = new Map(rows.map((row) => [row.id, toDay(row.failedOn)]));
  return {
    currency: homeCurrency,
    elsewhere: rows.filter(({ currency }) => currency !== homeCurrency).length,
    past: {
      declines: rows
        .filter(({ currency }) => currency === homeCurrency)
        .map((row) => ({
          failedOn: toDay(row.failedOn),
          declineClass: meaningOf(row.code).class,
          amount: Number(row.amount),
          lettersOn: row.lettersOn.map(toDay),
          overOn: toDay(row.overOn),
          outcome: (row.closedHow === null ? undefined : OUTCOMES[row.closedHow]) ?? 'not known',
          ladder: placeOf.get(row.ladderId) ?? 0,
        }))
        .toReversed(),
      retries: retriesOf(retries, byCase),
      ladders: ladders.map(policyOf),
    },
  };
}

function retriesOf(
  rows: readonly RetryRow[],
  failedOn: ReadonlyMap<string, number>,
): PastRecovery['retries'] {
  return rows.map(({ caseId, on, collected, code, retry }) => {
    const day = toDay(on);
    return {
      ...{ on: day, collected, declineClass: meaningOf(code).class, retry: Number(retry) },
      daysSince: Math.max(day - (failedOn.get(caseId) ?? day), 0),
    };
  });
}
