import { Button, Flex, Link as TextLink, Table, Text } from '@chakra-ui/react';
import { Link, useParams, useSearchParams } from 'react-router';
import { sayAmount, sayFigure } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import { ACCOUNT_KINDS, type AccountView } from '../../../server/customers/accountMessages.ts';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { Ledger } from '../../parts/Ledger.tsx';
import { SelectField } from '../../parts/TextField.tsx';

/** A customer's statement of account: what was owed, what moved it, what is owed; to print and to send. */
export function AccountPage() {
  const { id = '' } = useParams();
  const { businessDate } = useFrame();
  const [params, setParams] = useSearchParams();
  const asked = Object.fromEntries(
    ['from', 'until', 'currency'].map((name) => [name, params.get(name) ?? '']),
  );
  const path = `/api/customers/${id}/account`;
  const { data: account, error } = useAnswer<AccountView>(withQuery(path, asked));
  const choose = (name: string, value: string) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        if (value === '') next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  if (!account && !error) return <PageLoading title="Statement of account" />;
  return (
    <PageAndMargin
      title="Statement of account"
      action={
        account && (
          <Flex gap="2">
            <Button asChild size="sm" variant="outline">
              <a href={withQuery(`${path}.csv`, asked)} download>
                CSV
              </a>
            </Button>
            <Button asChild size="sm" colorPalette="kelp">
              <a href={withQuery(`${path}.pdf`, asked)} download>
                PDF
              </a>
            </Button>
          </Flex>
        )
      }
    >
      <Text mb="4">
        <TextLink asChild color="kelp.fg">
          <Link to={`/customers/${id}`}>{account?.customer ?? 'The customer'}</Link>
        </TextLink>
        . What was invoiced, credited, paid and paid back, each on the day that it counts for.
      </Text>
      <Flex gap="3" mb="5" wrap="wrap" css={{ '& > *': { width: '208px' } }}>
        <DateField
          label="From"
          field="from"
          value={asked.from ?? ''}
          max={asked.until || businessDate}
          hint="Empty: from the beginning"
          onChange={(event) => choose('from', event.target.value)}
        />
        <DateField
          label="Until"
          field="until"
          value={asked.until ?? ''}
          min={asked.from || undefined}
          max={businessDate}
          hint="Empty: until today"
          onChange={(event) => choose('until', event.target.value)}
        />
        {account && account.currencies.length > 1 && (
          <SelectField
            label="Currency"
            value={account.currency}
            onChange={(event) => choose('currency', event.target.value)}
          >
            {account.currencies.map((currency) => (
              <option key={currency}>{currency}</option>
            ))}
          </SelectField>
        )}
      </Flex>
      {error && (
        <Text color="declined" role="alert">
          {error.message}
        </Text>
      )}
      {account && <Movements of={account} />}
    </PageAndMargin>
  );
}

function Movements({ of: account }: { readonly of: AccountView }) {
  const { currency, lines, opening, closing } = account;
  const owed = BigInt(closing);
  return (
    <Ledger
      label={`Account in ${currency}`}
      amounts={[currency, 'Owed']}
      empty={lines.length === 0 ? 'Nothing moved on these days.' : undefined}
      closing={
        owed === 0n
          ? 'Nothing is owed'
          : owed > 0n
            ? `${sayAmount(owed, currency)} is owed`
            : `${sayAmount(-owed, currency)} is to their credit`
      }
    >
      {opening !== '0' && (
        <Table.Row>
          <Table.Cell />
          <Table.Cell colSpan={3}>Owed before</Table.Cell>
          <Table.Cell textAlign="end">{sayFigure(BigInt(opening), currency)}</Table.Cell>
        </Table.Row>
      )}
      {lines.map(({ on, kind, about, invoiceId, amount, balance }, i) => (
        <Table.Row key={i}>
          <Table.Cell whiteSpace="nowrap">{sayDayMonthYear(on)}</Table.Cell>
          <Table.Cell>{ACCOUNT_KINDS[kind]}</Table.Cell>
          <Table.Cell>
            {invoiceId === null ? (
              about
            ) : (
              <TextLink asChild color="kelp.fg">
                <Link to={`/invoices/${invoiceId}`}>{about}</Link>
              </TextLink>
            )}
          </Table.Cell>
          <Table.Cell textAlign="end">{sayFigure(BigInt(amount), currency)}</Table.Cell>
          <Table.Cell textAlign="end">{sayFigure(BigInt(balance), currency)}</Table.Cell>
        </Table.Row>
      ))}
    </Ledger>
  );
}
