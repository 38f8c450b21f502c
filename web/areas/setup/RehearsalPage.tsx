import { Box, Button, Flex, Heading, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import type { Rehearsed } from '../../../server/rehearsal/messages.ts';
import type { BusinessView } from '../../../server/run/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { giveCard } from '../../api/gateway.ts';
import { useAnswer, useGateways } from '../../api/hooks.ts';
import { CardFields } from '../../parts/CardFields.tsx';
import { entryOf, faultsOfCard, NO_CARD } from '../../parts/card.ts';
import type { PageLook } from '../../../server/branding/messages.ts';
import { CustomerSheet } from '../../parts/CustomerSheet.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { MannerContext } from '../../parts/manner.ts';
import { ThreadLine } from '../../parts/ThreadLine.tsx';

/** An enrolment as a customer would have it, played through with a practice card. It is kept nowhere. */
export function RehearsalPage() {
  const { data: business, error } = useAnswer<BusinessView>('/api/business');
  const { data: look } = useAnswer<PageLook>('/api/branding');
  const [rehearsed, setRehearsed] = useState<Rehearsed | null>(null);
  if (error) return <Text p="8">{error.message}</Text>;
  if (!business || !look) return null;
  return (
    <MannerContext value={{ locale: business.locale, today: business.businessDate, business: business.name }}>
      <CustomerSheet business={business.name} look={look}>
        <Flex bg="kelp.muted" px="3" py="2" mb="4" borderRadius="md" align="center" gap="3">
          <Text flex="1">
            A rehearsal. Use a practice card; nothing of it is kept in any book, number or statistic.
          </Text>
          <Link to="/setup">Leave it</Link>
        </Flex>
        {rehearsed ? (
          <Outcome rehearsed={rehearsed} today={business.businessDate} onAgain={() => setRehearsed(null)} />
        ) : (
          <Form today={business.businessDate} onDone={setRehearsed} />
        )}
      </CustomerSheet>
    </MannerContext>
  );
}

function Form({ today, onDone }: { today: string; onDone: (rehearsed: Rehearsed) => void }) {
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const [rateId, setRateId] = useState('');
  const gateway = useGateways({ rateId }).gateway;
  const [name, setName] = useState('A. Customer');
  const [card, setCard] = useState(NO_CARD);
  const [faults, setFaults] = useState<Readonly<Record<string, string | undefined>>>({});
  const [says, setSays] = useState('');
  const [busy, setBusy] = useState(false);
  const rate = plans?.flatMap((plan) => plan.rates).find(({ id }) => id === rateId);
  const go = async () => {
    const found: Record<string, string> = {
      ...faultsOfCard(card, today, gateway),
      ...(rateId === '' ? { rate: 'Choose a plan.' } : {}),
      ...(name.trim() === '' ? { name: 'Give a name.' } : {}),
    };
    const entry = entryOf(card);
    setFaults(found);
    setSays('');
    if (Object.keys(found).length > 0 || entry === null) return;
    setBusy(true);
    try {
      const cardToken = await giveCard({ rateId }, entry, today);
      onDone(await post<Rehearsed>('/api/rehearsals', { rateId, name, cardToken }));
    } catch (error) {
      const number = error instanceof Problem ? error.at('/card/number') : undefined;
      if (number) setFaults({ number });
      else setSays(error instanceof Problem ? error.message : 'That did not work.');
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <Heading as="h1" size="2xl" fontWeight="500" mb="3">
        Sign up
      </Heading>
      <Flex direction="column" gap="4">
        <SelectField
          label="Plan"
          value={rateId}
          error={faults.rate}
          onChange={(event) => setRateId(event.target.value)}
        >
          <option value="">Choose …</option>
          {plans?.map((plan) => (
            <optgroup key={plan.id} label={plan.name}>
              {plan.rates.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}: {one.says}
                </option>
              ))}
            </optgroup>
          ))}
        </SelectField>
        {rate && <Text>{rate.says}.</Text>}
        <TextField
          label="Your name"
          maxLength={200}
          value={name}
          error={faults.name}
          onChange={(event) => setName(event.target.value)}
        />
        <CardFields card={card} onChange={setCard} faults={faults} gateway={gateway} practice />
      </Flex>
      <Button mt="4" w="full" data-main colorPalette="kelp" loading={busy} onClick={() => void go()}>
        Sign up
      </Button>
      <Text role="alert" color="declined" mt="2">
        {says}
      </Text>
    </>
  );
}

function Outcome(props: { rehearsed: Rehearsed; today: string; onAgain: () => void }) {
  const { rehearsed, today, onAgain } = props;
  const last = rehearsed.charges.at(-1)?.date ?? today;
  return (
    <>
      <Heading as="h1" size="2xl" fontWeight="500" mb="2">
        What would have happened
      </Heading>
      <Box as="ol" pl="5" listStyleType="decimal">
        {rehearsed.steps.map(({ good, says }) => (
          <Box as="li" key={says} color={good ? undefined : 'declined'}>
            {says}
          </Box>
        ))}
      </Box>
      <Box my="4">
        <ThreadLine
          thread={rehearsed.thread}
          from={today}
          to={last > today ? last : today}
          today={today}
          label="The charges along time"
          tall
        />
      </Box>
      {rehearsed.charges.map((charge, i) => (
        <Flex key={`${charge.date}${i}`} py="1" gap="3">
          <Box flex="1">{sayDate(charge.date)}</Box>
          <Box>{sayAmount(BigInt(charge.due), rehearsed.currency)}</Box>
        </Flex>
      ))}
      <Heading as="h2" size="lg" fontWeight="500" mt="5" mb="2">
        Letters
      </Heading>
      {rehearsed.letters.map((letter) => (
        <Box key={letter.subject} mb="4">
          <Text fontWeight="600">{letter.subject}</Text>
          {!letter.sent && (
            <Text color="trial">Letters of this kind are switched off, so that nobody would get it.</Text>
          )}
          <iframe
            title={letter.subject}
            sandbox=""
            srcDoc={letter.html}
            style={{
              width: '100%',
              height: 300,
              border: '1px solid var(--chakra-colors-lines)',
              background: 'white',
            }}
          />
        </Box>
      ))}
      <Flex gap="3">
        <Button size="sm" variant="outline" onClick={onAgain}>
          Again
        </Button>
        <Button asChild size="sm" variant="outline">
          <Link to="/setup">Back to Setup</Link>
        </Button>
      </Flex>
    </>
  );
}
