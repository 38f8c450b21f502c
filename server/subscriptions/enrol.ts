import type { Transaction } from 'sequelize';
import { formatDay } from '../../core/dates/day.ts';
import { outlineOf } from '../../core/schedule/outline.ts';
import { compileTerms } from '../../core/terms/compile.ts';
import type { Terms } from '../../core/terms/schema.ts';
import { firstDayOf } from './standing.ts';
import { Subscription } from './Subscription.ts';

export interface Enrolment {
  readonly reference: string;
  readonly customerId: string;
  readonly rateId: string;
  readonly terms: Terms;
  readonly enrolledOn: string;
}

/** Writes down a new subscription. It wakes on the first day on which its terms let something happen. */
export function enrol(enrolment: Enrolment, within: Transaction): Promise<Subscription> {
  const { terms } = enrolment;
  const { trialEnds, ends } = outlineOf(compileTerms(terms));
  return Subscription.create(
    {
      ...enrolment,
      walk: null,
      state: 'scheduled',
      startsOn: terms.starts,
      trialEndsOn: trialEnds === null ? null : formatDay(trialEnds),
      endsOn: ends === null ? null : formatDay(ends),
      wakeOn: firstDayOf(terms),
    },
    { transaction: within },
  );
}
