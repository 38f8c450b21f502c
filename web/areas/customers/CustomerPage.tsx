import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import { sayCountry } from '../../../core/words/countries.ts';
import { sayLanguage } from '../../../core/words/languages.ts';
import { sayPlace } from '../../../server/customers/placeMessages.ts';
import type { CreditView } from '../../../server/customers/creditStatement.ts';
import type { CustomerView } from '../../../server/customers/messages.ts';
import type { Page } from '../../../server/http/list.ts';
import type { SubscriptionRow } from '../../../server/subscriptions/messages.ts';
import { Messages } from './Messages.tsx';
import { OF_ITS_OWN } from '../subscriptions/enrol/ofItsOwn.ts';
import { Contacts } from './Contacts.tsx';
import { Files } from './Files.tsx';
import { OptionalLetters } from './OptionalLetters.tsx';
import { Holding } from './Holding.tsx';
import { Timeline } from './Timeline.tsx';
import { Methods } from './Methods.tsx';
import { EditCustomer } from './EditCustomer.tsx';
import { useAnswer } from '../../api/hooks.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { EndLinks } from '../../parts/EndLinks.tsx';
import { TakeCard } from '../../parts/TakeCard.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ThreadLine } from '../../parts/ThreadLine.tsx';
import { threadWindow } from '../../parts/threadWindow.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';

/** One customer: subscriptions with their threads, ways to pay, people beside them, and all that happened. */
export function CustomerPage() {
  const { id = '' } = useParams();
  const { businessDate, role } = useFrame();
  const [editing, setEditing] = useState(false);
  const { data: customer, error } = useAnswer<CustomerView>(`/api/customers/${id}`);
  const { data: credits } = useAnswer<CreditView[]>(`/api/customers/${id}/credits`);
  const { data: subscriptions } = useAnswer<Page<SubscriptionRow>>(`/api/subscriptions?customerId=${id}`);
  const { from, to } = threadWindow(businessDate);
  if (error) return <PageAndMargin title="There is no such customer">{error.message}</PageAndMargin>;
  if (!customer) return <PageLoading title="Customer" />;
  return (
    <PageAndMargin
      title={customer.name}
      action={
        <Flex gap="2">
          {role !== 'reader' && (
            <Button size="sm" variant="outline" onClick={() => setEditing(!editing)}>
              Edit
            </Button>
          )}
          <ForWriters>
            <Button asChild size="sm" variant="outline">
              <Link to={`/customers/${id}/take`}>Take a payment</Link>
            </Button>
            <Button asChild size="sm" variant="outline">
              <Link to={`/enrol?customer=${id}`}>Enrol in another plan</Link>
            </Button>
            <Button asChild size="sm" variant="outline">
              <Link to={`/enrol?customer=${id}`} state={{ recurring: OF_ITS_OWN }}>
                Invoice something
              </Link>
            </Button>
          </ForWriters>
        </Flex>
      }
      margin={
        editing ? (
          <EditCustomer key={customer.version} customer={customer} onClose={() => setEditing(false)} />
        ) : (
          <ForWriters>
            <TakeCard customerId={id} />
            <EndLinks customerId={id} />
            <Holding customer={customer} />
            <Box mt="3">
              <TextLink asChild color="kelp.fg">
                <Link to={`/suspensions?customer=${id}`}>Stop collecting for a while …</Link>
              </TextLink>
            </Box>
          </ForWriters>
        )
      }
      marginLabel="The card"
    >
      <Text mb="4">
        {customer.email}
        <Box as="span" color="muted" ml="3">
          {customer.reference.startsWith('new-') ? '' : `${customer.reference}, `}since{' '}
          {sayDate(customer.createdOn)}
        </Box>
        {customer.group !== '' && (
          <Box as="span" ml="3">
            {customer.group}
          </Box>
        )}
        {customer.taxExempt !== '' && (
          <Box as="span" color="trial" ml="3">
            pays no tax: {customer.taxExempt}
          </Box>
        )}
      </Text>
      {knownOf(customer).length > 0 && (
        <Flex as="dl" columnGap="5" rowGap="1" wrap="wrap" mb="4" mt="-2">
          {knownOf(customer).map(([label, value]) => (
            <Flex key={label} gap="2">
              <Box as="dt" color="muted">
                {label}
              </Box>
              <Box as="dd">{value}</Box>
            </Flex>
          ))}
        </Flex>
      )}
      {subscriptions?.rows.map((one) => (
        <Box
          key={one.id}
          bg="page"
          borderWidth="1px"
          borderColor="lines"
          borderRadius="md"
          px="4"
          py="3"
          mb="3"
        >
          <TextLink asChild fontFamily="heading" fontSize="16px">
            <Link to={`/subscriptions/${one.id}`}>{one.plan}</Link>
          </TextLink>
          <Box as="span" ml="3">
            <StateMark state={one.state} />
          </Box>
          <Text>{one.says}</Text>
          <ThreadLine
            thread={one.thread}
            from={from}
            to={to}
            today={businessDate}
            label={`Thread of ${one.plan}`}
            tall
          />
        </Box>
      ))}
      {credits && credits.length > 0 && (
        <Text mb="3">
          Credit at hand:{' '}
          {credits.map(({ currency, credit }) => sayAmount(BigInt(credit), currency)).join(', ')}.{' '}
          <TextLink asChild color="kelp.fg">
            <Link to={`/customers/${id}/credit`}>Its statement</Link>
          </TextLink>
        </Text>
      )}
      <Text mb="3">
        <TextLink asChild color="kelp.fg">
          <Link to={`/customers/${id}/account`}>Statement of account</Link>
        </TextLink>
      </Text>
      <Methods customerId={id} />
      <Messages customerId={id} customer={customer.name} />
      <Contacts customerId={id} customer={customer.name} />
      <OptionalLetters customerId={id} />
      <Files customerId={id} />
      <Timeline customerId={id} />
    </PageAndMargin>
  );
}

export { Files } from './Files.tsx';

/** What else is known of a customer, each with what it is. */
function knownOf(customer: CustomerView): [string, string][] {
  const { phone, organisation, address, postcode, region, country, language, taxNumber, shipping, fields } =
    customer;
  const lives = [...address.split('\n'), postcode, region, country === '' ? '' : sayCountry(country)];
  const known: [string, string][] = [
    ['Telephone', phone],
    ['Organisation', organisation],
    ['Address', lives.filter((part) => part.trim() !== '').join(', ')],
    ['Goods go to', shipping ? sayPlace(shipping, sayCountry) : ''],
    ['Language', language === '' ? '' : sayLanguage(language)],
    ['Tax number', taxNumber],
    ...Object.entries(fields),
  ];
  return known.filter(([, value]) => value !== '');
}
