import { List } from '@chakra-ui/react';
import { sayLength } from '../../../../core/words/sayRate.ts';
import { sayDate } from '../../../../core/words/date.ts';
import type { GatewayAccountView } from '../../../../server/gateways/messages.ts';
import type { RateView } from '../../../../server/plans/messages.ts';
import { useAnswer } from '../../../api/hooks.ts';

const WITHOUT_METHOD = {
  needed: 'A trial needs a card at its start.',
  end: 'A trial may begin without a card; without one it ends.',
  pause: 'A trial may begin without a card; without one it rests.',
  invoice: 'A trial may begin without a card; without one it is invoiced.',
} as const;

/** How a rate is sold and collected, in sentences, apart from its price. */
export function HowSold({ rate }: { readonly rate: RateView }) {
  const named = rate.options.gateways;
  const { data } = useAnswer<GatewayAccountView[]>(named.length === 0 ? null : '/api/gateways');
  const names = named.map((id) => data?.find((account) => account.id === id)?.name ?? 'a certain gateway');
  return (
    <List.Root mb="3" ps="4" fontSize="13px" aria-label="How it is sold">
      {sentences(rate, names).map((says) => (
        <List.Item key={says}>{says}</List.Item>
      ))}
    </List.Root>
  );
}

function sentences({ options, terms }: RateView, gateways: readonly string[]): string[] {
  const { methods, invoicing, issueDaysBefore, noticeDays, trialNoticeDays } = options;
  const { recurringStart, withoutMethod, account } = options;
  const ways = [
    ...(methods.includes('card') ? ['with a card that is charged by itself'] : []),
    ...(methods.includes('bank debit') ? ['by bank debit, collected by itself'] : []),
    ...(methods.includes('online transfer') ? ['by online transfer, each time by hand'] : []),
    ...(methods.includes('invoice') ? ['by hand, by invoice'] : []),
  ];
  return [
    `Paid ${ways.join(', or ')}.`,
    gateways.length === 0
      ? ''
      : `Takes cards of ${new Intl.ListFormat('en', { type: 'disjunction' }).format(gateways)} alone.`,
    'trial' in terms ? WITHOUT_METHOD[withoutMethod] : '',
    'trial' in terms && trialNoticeDays !== null
      ? `The end of a trial is told of ${trialNoticeDays} ${trialNoticeDays === 1 ? 'day' : 'days'} before.`
      : '',
    invoicing === 'whole' ? 'One invoice for the whole, with dated dues.' : '',
    issueDaysBefore === 0
      ? ''
      : `Invoiced ${issueDaysBefore} ${issueDaysBefore === 1 ? 'day' : 'days'} before each period.`,
    noticeDays === null
      ? ''
      : `Renewals are told of ${noticeDays} ${noticeDays === 1 ? 'day' : 'days'} before.`,
    recurringStart === null
      ? ''
      : 'after' in recurringStart
        ? `What recurs begins ${sayLength(recurringStart.after)} after enrolment.`
        : `What recurs begins on ${sayDate(recurringStart.on)}.`,
    account === '' ? '' : `Kept on the account ${account}.`,
  ].filter(Boolean);
}
