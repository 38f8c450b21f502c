import { Text } from '@chakra-ui/react';
import { useNavigate } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import { EXPIRY_STATES, type ExpiringCard } from '../../../server/recovery/expiringMessages.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';

const COLUMNS: readonly Column<ExpiringCard>[] = [
  {
    heading: 'Customer',
    sort: 'customer',
    width: '24%',
    cell: (row) => row.customer,
    under: (row) => row.card,
  },
  {
    heading: 'Good until',
    sort: 'expires',
    width: '170px',
    cell: (row) => sayDayMonthYear(row.expiresOn),
    under: (row) => row.state,
  },
  {
    heading: 'Written to',
    sort: 'told',
    width: '190px',
    cell: (row) => (row.toldOn === null ? '' : sayDayMonthYear(row.toldOn)),
    under: (row) =>
      row.toldOn !== null
        ? ''
        : row.state === 'expired' || row.state === 'this month'
          ? 'not written to'
          : 'at the start of its last month',
  },
  {
    heading: 'Charged next',
    sort: 'next',
    cell: (row) => sayDayMonthYear(row.nextOn),
    under: (row) =>
      [
        row.nextAmount === null ? '' : sayAmount(BigInt(row.nextAmount), row.currency),
        row.nextOn > row.expiresOn ? 'after it has expired' : '',
        row.others === 0 ? '' : `and ${row.others === 1 ? 'one other subscription' : `${row.others} others`}`,
      ]
        .filter(Boolean)
        .join(', '),
  },
];

/** Cards that expire within four months, or have, and pay for subscriptions that go on. */
export function ExpiringCardsPage() {
  const navigate = useNavigate();
  return (
    <PageAndMargin title="Cards that expire">
      <Text color="muted" mb="3" maxW="760px">
        Who pays with a card is written to at the start of its last month, with a link to give the new one.
        Where the bank issues it anew by itself and the gateway tells us, nobody is written to, and the card
        leaves this list.
      </Text>
      <ListPage<ExpiringCard>
        path="/api/expiring-cards"
        label="cards"
        columns={COLUMNS}
        states={[...EXPIRY_STATES]}
        dates={{ expires: 'Good until' }}
        chosen={null}
        onChoose={(row) => void navigate(`/customers/${row.customerId}`)}
        empty={<Text>No card expires within four months.</Text>}
      />
    </PageAndMargin>
  );
}
