import { Button, Text } from '@chakra-ui/react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import { PAYMENT_FILTERS, type AttemptRow, type PaymentPage } from '../../../server/payments/messages.ts';
import { MEANS_NAMES } from '../../../server/payments/meansKinds.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Loading } from '../../frame/PageLoading.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { PaymentFacts } from './PaymentFacts.tsx';

/** All payments and tries at them, the latest first; the margin shows the chosen one. */
export function PaymentsPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('payment');
  const navigate = useNavigate();
  const choose = (row: AttemptRow) => {
    if (row.id === chosen) return void navigate(`/payments/${row.id}`);
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('payment', row.id);
        return next;
      },
      { replace: true },
    );
  };
  return (
    <PageAndMargin
      title="Payments"
      margin={chosen !== null && <Chosen id={chosen} />}
      marginLabel="The chosen payment"
    >
      <ListPage<AttemptRow>
        path="/api/payments"
        label="payments"
        states={PAYMENT_FILTERS}
        kinds={{ gateway: 'Card or account', ...MEANS_NAMES }}
        anyKind="Any way"
        dates={{ made: 'Made' }}
        views="payments"
        chosen={chosen}
        onChoose={choose}
        empty={
          <Text>No payment was made yet. Each one shows here as it is tried, with how it came out.</Text>
        }
        columns={[
          {
            heading: 'Made',
            sort: 'made',
            width: '116px',
            cell: ({ attemptedOn }) => sayDayMonthYear(attemptedOn),
          },
          {
            heading: 'Customer',
            sort: 'customer',
            width: '24%',
            cell: ({ customer }) => customer,
            under: ({ invoice }) => `Invoice ${invoice}`,
          },
          {
            heading: 'Outcome',
            width: '140px',
            cell: ({ state }) => <StateMark state={state} />,
          },
          {
            heading: 'Paid by',
            cell: ({ method }) => method,
            under: ({ state, says }) => (state === 'collected' ? '' : says),
          },
          {
            heading: 'Amount',
            sort: 'amount',
            width: '116px',
            right: true,
            cell: ({ amount, currency }) => sayAmount(BigInt(amount), currency),
            under: ({ refunded, currency }) =>
              refunded === '0' ? '' : `${sayAmount(BigInt(refunded), currency)} back`,
          },
        ]}
      />
    </PageAndMargin>
  );
}

function Chosen({ id }: { readonly id: string }) {
  const { data: payment } = useAnswer<PaymentPage>(`/api/payments/${id}`);
  if (payment?.id !== id) return <Loading shape="margin" />;
  return (
    <>
      <MarginHeading>{sayAmount(BigInt(payment.amount), payment.currency)}</MarginHeading>
      <Text mb="3">
        <StateMark state={payment.state} />
      </Text>
      <PaymentFacts payment={payment} />
      <Button asChild size="sm" colorPalette="kelp" mt="5">
        <Link to={`/payments/${id}`}>Open it</Link>
      </Button>
    </>
  );
}
