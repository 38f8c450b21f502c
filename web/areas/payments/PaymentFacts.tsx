import { Link as TextLink } from '@chakra-ui/react';
import { Link } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { PaymentPage } from '../../../server/payments/messages.ts';
import { Facts } from '../../parts/Facts.tsx';
import { sayInstant } from '../../parts/sayInstant.ts';

const CHANNELS: Readonly<Record<string, string>> = {
  customer: 'the customer, online',
  staff: 'staff, by phone or post',
  reader: 'the card reader',
  import: 'an import',
};

const REASONS: Readonly<Record<string, string>> = {
  renewal: 'its day had come',
  retry: 'a retry of its case',
  'new method': 'another card was given',
  'by the customer': 'the customer paid',
  'by staff': 'staff took it',
};

/** What is known of a payment. */
export function PaymentFacts({ payment }: { readonly payment: PaymentPage }) {
  const { taking, currency } = payment;
  const link = (to: string, says: string) => (
    <TextLink asChild key={to} color="kelp.fg">
      <Link to={to}>{says}</Link>
    </TextLink>
  );
  return (
    <Facts
      of={[
        ['Customer', link(`/customers/${payment.customerId}`, payment.customer)],
        ['Invoice', link(`/invoices/${payment.invoiceId}`, payment.invoice)],
        ['For', link(`/subscriptions/${payment.subscriptionId}`, payment.plan)],
        ['Made', sayDate(payment.attemptedOn)],
        ['Because', REASONS[payment.reason] ?? payment.reason],
        ['Paid by', payment.method],
        ['Outcome', payment.says],
        ['Answer code', payment.state === 'declined' ? payment.responseCode : ''],
        ['Card given by', payment.means === 'gateway' ? (CHANNELS[payment.channel] ?? payment.channel) : ''],
        ['On the statement', payment.statementText],
        ['Gateway', payment.gateway],
        ['Its number there', payment.gatewayCharge],
        ['Sent', payment.sentAt && sayInstant(payment.sentAt)],
        ['Settled', payment.settledAt && sayInstant(payment.settledAt)],
        ['Expected', payment.expectedOn && sayDate(payment.expectedOn)],
        ['Reference', taking?.reference],
        ['Note', taking?.note],
        ['Taken by', taking?.takenBy],
        [
          'Of a payment of',
          taking && taking.amount !== payment.amount ? sayAmount(BigInt(taking.amount), currency) : '',
        ],
        ['Kept as credit', taking && taking.over !== '0' ? sayAmount(BigInt(taking.over), currency) : ''],
      ]}
    />
  );
}
