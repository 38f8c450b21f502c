import type { RecurringStart } from '../../../../core/offer/composeTerms.ts';
import { parseDuration } from '../../../../core/dates/duration.ts';
import { issueDaysSchema, type RateOptions } from '../../../../server/plans/choiceMessages.ts';

/** How a rate is sold and collected, as it is being typed. */
export interface OptionsDraft {
  readonly account: string;
  readonly methods: RateOptions['methods'];
  readonly gateways: readonly string[];
  readonly invoicing: RateOptions['invoicing'];
  readonly issueDaysBefore: string;
  readonly noticeDays: string;
  readonly trialNoticeDays: string;
  readonly withoutMethod: RateOptions['withoutMethod'];
  readonly begins: 'enrolment' | 'after' | 'on';
  readonly afterCount: string;
  readonly afterUnit: 'D' | 'W' | 'M' | 'Y';
  readonly beginsOn: string;
}

export const NEW_OPTIONS: OptionsDraft = {
  account: '',
  methods: ['card'],
  gateways: [],
  invoicing: 'each',
  issueDaysBefore: '',
  noticeDays: '',
  trialNoticeDays: '',
  withoutMethod: 'needed',
  begins: 'enrolment',
  afterCount: '1',
  afterUnit: 'M',
  beginsOn: '',
};

/** The options that a draft stands for; what is not good stays as it was typed, for the schema to find. */
export function optionsOf(draft: OptionsDraft): Record<string, unknown> {
  const { account, methods, gateways, invoicing, withoutMethod } = draft;
  const { issueDaysBefore, noticeDays, trialNoticeDays } = draft;
  return {
    account: account.trim(),
    methods,
    gateways,
    invoicing,
    issueDaysBefore: daysOf(issueDaysBefore) ?? 0,
    noticeDays: daysOf(noticeDays),
    trialNoticeDays: daysOf(trialNoticeDays),
    withoutMethod,
    recurringStart: startOf(draft),
  };
}

/** So many days before it begins a period is invoiced by a draft; none while what is typed is no such number. */
export function issueDaysOf({ issueDaysBefore }: OptionsDraft): number {
  const read = issueDaysSchema.safeParse(daysOf(issueDaysBefore) ?? 0);
  return read.success ? read.data : 0;
}

const daysOf = (text: string) => (text.trim() === '' ? null : Number(text.trim()));

/** When what recurs begins, by a draft: null is the day of enrolment. */
export function startOf({ begins, afterCount, afterUnit, beginsOn }: OptionsDraft): RecurringStart | null {
  if (begins === 'after') return { after: `P${afterCount.trim()}${afterUnit}` };
  return begins === 'on' ? { on: beginsOn } : null;
}

/** The draft of options that are stored. */
export function optionsDraftOf(options: RateOptions): OptionsDraft {
  const { issueDaysBefore, noticeDays, trialNoticeDays, recurringStart, ...same } = options;
  const after = recurringStart && 'after' in recurringStart ? parseDuration(recurringStart.after) : null;
  return {
    ...NEW_OPTIONS,
    ...same,
    issueDaysBefore: issueDaysBefore === 0 ? '' : String(issueDaysBefore),
    noticeDays: String(noticeDays ?? ''),
    trialNoticeDays: String(trialNoticeDays ?? ''),
    begins: after ? 'after' : recurringStart ? 'on' : 'enrolment',
    ...(after ? { afterCount: String(after.count), afterUnit: after.unit } : {}),
    ...(recurringStart && 'on' in recurringStart ? { beginsOn: recurringStart.on } : {}),
  };
}
