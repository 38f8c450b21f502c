import { meaningOf, type DeclineClass } from '../../core/recovery/declineCodes.ts';
import { monthsUntil, type CaseFacts } from '../../core/recovery/figures.ts';
import type { Almanac } from '../almanac.ts';
import { businessDateOf } from '../business/businessDate.ts';
import { theBusiness } from '../business/theBusiness.ts';
import { CLOSED_HOW, type ClosedHow } from './closedHow.ts';
import { CASE_FACTS } from './figures.sql.ts';
import type { RecoveryFigures } from './figuresMessages.ts';
import { CASE_KINDS, type CaseState } from './messages.ts';

interface FactRow {
  readonly month: string;
  readonly code: string | null;
  readonly ladder: string;
  readonly rungs: number;
  readonly currency: string;
  readonly state: CaseState;
  readonly how: ClosedHow | null;
  readonly days: number | null;
  readonly cases: number;
  readonly failed: string;
  readonly recovered: string;
}

/** What recovery came to in so many months and in as many before them. */
export async function recoveryFigures(almanac: Almanac, months: number): Promise<RecoveryFigures> {
  const month = (await businessDateOf(almanac)).slice(0, 7);
  const [first = month] = monthsUntil(month, 2 * months);
  const rows = await almanac.db.rows<FactRow>(CASE_FACTS, { from: `${first}-01` });
  const { homeCurrency } = await theBusiness();
  const currencies = [...new Set(rows.map(({ currency }) => currency))].toSorted(
    (a, b) => Number(b === homeCurrency) - Number(a === homeCurrency) || (a < b ? -1 : 1),
  );
  return {
    ...{ month, months },
    currencies: currencies.map((currency) => ({
      currency,
      facts: rows.filter((row) => row.currency === currency).map(factsOf),
    })),
  };
}

function factsOf({ code, how, state, failed, recovered, ...row }: FactRow): CaseFacts {
  const { month, ladder, rungs, days, cases } = row;
  return {
    ...{ month, ladder, rungs, days, cases },
    reason: reasonOf(code),
    how: how === null ? null : CLOSED_HOW[how],
    isRecovered: state === 'recovered',
    failed: Number(failed),
    recovered: Number(recovered),
  };
}

function reasonOf(code: string | null): string {
  if (code === 'by hand') return CASE_KINDS['by hand'];
  if (code === null) return 'No card to charge';
  const declineClass: DeclineClass = meaningOf(code).class;
  return /^[A-Z]/.test(code) ? CASE_KINDS.debit : CASE_KINDS[declineClass];
}
