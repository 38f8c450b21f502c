import { Box, Button, Flex, Grid, NativeSelect, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { useSWRConfig } from 'swr';
import type { PlanView, RateView } from '../../../server/plans/messages.ts';
import type { EnrolmentForm, EnrolmentMessage } from '../../../server/subscriptions/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { giveCard } from '../../api/gateway.ts';
import { useLaw } from '../../api/useLaw.ts';
import { useAnswer, useCardGateway } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { entryOf, faultsOfCard, NO_CARD } from '../../parts/CardFields.tsx';
import { PricesBeside } from '../../parts/PricesBeside.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { LabelledField, TextField } from '../../parts/TextField.tsx';
import { ContactFields, lawOf, type Contact } from './ContactFields.tsx';
import { ChooseCustomer, useChosenCustomer } from './enrol/ChooseCustomer.tsx';
import { countsQuantity, NO_CHOICE, sentAnswers, sentExtras, takesAmount } from './enrol/choice.ts';
import { ChoiceFields } from './enrol/ChoiceFields.tsx';
import { PayFields } from './enrol/PayFields.tsx';
import { payingOf } from './enrol/paying.ts';
import { useChoice } from './enrol/useChoice.ts';
import { DateField } from '../../parts/DateField.tsx';

type Faults = Partial<
  Record<'name' | 'email' | 'customer' | 'rate' | 'starts' | 'number' | 'expires', string>
>;

/** Enrols a customer. The margin shows what will be charged and when, and says what is still missing. */
export function EnrolPage() {
  const { businessDate } = useFrame();
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const { mutate } = useSWRConfig();
  const given = params.get('customer');
  const [who, setWho] = useState<'new' | 'existing'>(given ? 'existing' : 'new');
  const [name, setName] = useState('');
  const [email, setEmail] = useState('');
  const [customerId, setCustomerId] = useState(given ?? '');
  const [rateId, setRateId] = useState('');
  const [starts, setStarts] = useState(businessDate);
  const [choice, setChoice] = useState(NO_CHOICE);
  const [pays, setPays] = useState<'card' | 'invoice'>('card');
  const [card, setCard] = useState(NO_CARD);
  const [contact, setContact] = useState<Contact>({});
  const [invoiceFields, setInvoiceFields] = useState<Record<string, string>>({});
  const [more, setMore] = useState<Problem | null>(null);
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const [otherCard, setOtherCard] = useState(false);
  const [faults, setFaults] = useState<Faults>({});
  const [tried, setTried] = useState(false);
  const [busy, setBusy] = useState(false);
  const [says, setSays] = useState('');
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const customer = useChosenCustomer(who === 'existing' ? customerId : '');
  const purpose = { rateId, customerId: who === 'existing' ? customerId : '' };
  const gateway = useCardGateway(purpose);

  const { plan, rate, computed, cards, variantId, code, codeSays, codeHint } = useChoice({
    plans,
    rateId,
    choice,
    starts,
    customerId: who === 'existing' ? customerId : '',
    group: who === 'new' ? (contact.group ?? '').trim() : '',
  });
  const compile = useLaw(rate?.taxId, who === 'new' ? lawOf(contact) : lawOf(customer ?? {}));
  const paying = payingOf(rate, { pays, card, hasCard: customer?.cardState === 'usable' && !otherCard });
  const { needsCard, takesCard } = paying;
  const missing = [
    ...missingOf({ who, name, email, customerId, rate, needsCard, card }),
    ...(computed && computed.faults.size > 0 ? ['what is chosen of the plan'] : []),
  ];

  const check = (): Faults => ({
    ...(who === 'new' && name.trim() === '' ? { name: 'Give a name.' } : {}),
    ...(who === 'new' && !/^[^@\s]+@[^@\s]+\.[^@\s]+$/.test(email.trim())
      ? { email: 'Give an e-mail address, such as ada@post.example.' }
      : {}),
    ...(who === 'existing' && customerId === '' ? { customer: 'Choose a customer.' } : {}),
    ...(rate === undefined ? { rate: 'Choose a plan and a rate.' } : {}),
    ...(starts < businessDate ? { starts: 'Start on the business day or later.' } : {}),
    ...(takesCard ? faultsOfCard(card) : {}),
  });

  const faultAt = (field: string) => {
    const of = field.startsWith('answer:')
      ? `/answers/${field.slice(7)}`
      : field === 'variant'
        ? '/variantId'
        : `/${field}`;
    const told = tried || field === 'amount' || field === 'quantity' || field.startsWith('extra:');
    return (told ? computed?.faults.get(field) : undefined) ?? more?.at(of);
  };

  const confirm = async () => {
    const found = check();
    setFaults(found);
    setSays('');
    setTried(true);
    if (Object.keys(found).length > 0 || !plan || !rate || !computed || computed.faults.size > 0) return;
    setBusy(true);
    try {
      const entry = takesCard ? entryOf(card) : null;
      const cardToken = entry === null ? undefined : await giveCard(purpose, entry);
      const message: EnrolmentMessage = {
        customer: who === 'new' ? { name: name.trim(), email: email.trim(), ...contact } : { id: customerId },
        invoiceFields,
        ...(code === '' ? {} : { codes: [code] }),
        rateId,
        starts,
        ...(countsQuantity(rate) ? { quantity: Number(choice.quantity) } : {}),
        ...(takesAmount(rate) && choice.amount.trim() !== '' ? { amount: choice.amount.trim() } : {}),
        ...(variantId === '' ? {} : { variantId }),
        ...(choice.cardId === null ? {} : { rateCardId: choice.cardId || null }),
        extras: sentExtras(plan, rate, choice),
        answers: sentAnswers(plan, choice),
        pays: paying.by,
        ...(cardToken ? { cardToken } : {}),
      };
      const { id } = await post<{ id: string }>('/api/subscriptions', message);
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
      await navigate(`/subscriptions/${id}`);
    } catch (error) {
      const problem = error instanceof Problem ? error : null;
      const number = problem?.at('/card/number') ?? problem?.at('/cardToken');
      const inField: Faults = {
        ...(number ? { number } : {}),
        ...(problem?.at('/starts') ? { starts: problem.at('/starts') } : {}),
        ...(problem?.at('/customer/email') ? { email: problem.at('/customer/email') } : {}),
      };
      setMore(problem);
      // What is wrong with the card on file is said beside the fields of another.
      if (problem?.at('/cardToken') && !takesCard) setOtherCard(true);
      setFaults(inField);
      if (Object.keys(inField).length === 0 && !beside(problem))
        setSays(problem?.message ?? 'Nothing was stored.');
    } finally {
      setBusy(false);
    }
  };

  return (
    <PageAndMargin
      title="Enrol a customer"
      margin={
        <>
          <MarginHeading>What will be charged</MarginHeading>
          {computed === null ? (
            <Text color="muted">Choose a plan to see its charges, day by day.</Text>
          ) : (
            <>
              {computed.card && (
                <PricesBeside
                  title={`By the rate card ${computed.card.name}`}
                  headings={['Ordinarily', 'By the card']}
                  lines={computed.besides}
                  currency={String(computed.terms.currency)}
                />
              )}
              <TermsPreview terms={computed.terms} today={businessDate} compile={compile} />
            </>
          )}
          {form && form.termsVersion !== null && takesCard && (
            <Text color="muted" mt="3">
              The mandate keeps version {form.termsVersion} of the terms of service.
            </Text>
          )}
          <Box mt="5" borderTopWidth="1px" borderColor="lines" pt="4">
            {missing.length > 0 ? (
              <Text mb="3">Still missing: {missing.join(', ')}.</Text>
            ) : (
              <Text mb="3">
                Nothing is missing.{starts === businessDate ? ' It starts when today’s page is turned.' : ''}
              </Text>
            )}
            <Button colorPalette="kelp" loading={busy} onClick={confirm}>
              Enrol
            </Button>
            <Text role="alert" color="declined" mt="2">
              {says}
            </Text>
          </Box>
        </>
      }
    >
      <Grid gap="5" maxW="600px">
        <RadioGroup.Root
          value={who}
          onValueChange={({ value }) => setWho(value === 'existing' ? 'existing' : 'new')}
          colorPalette="kelp"
        >
          <Flex gap="6">
            {(['new', 'existing'] as const).map((value) => (
              <RadioGroup.Item key={value} value={value}>
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator />
                <RadioGroup.ItemText>
                  {value === 'new' ? 'A new customer' : 'One of our customers'}
                </RadioGroup.ItemText>
              </RadioGroup.Item>
            ))}
          </Flex>
        </RadioGroup.Root>
        {who === 'new' ? (
          <Flex gap="3" align="flex-start">
            <TextField
              label="Name"
              required
              maxLength={200}
              value={name}
              error={faults.name}
              onChange={(event) => setName(event.target.value)}
            />
            <TextField
              label="E-mail"
              type="email"
              required
              maxLength={200}
              value={email}
              error={faults.email}
              onChange={(event) => setEmail(event.target.value)}
            />
          </Flex>
        ) : (
          <ChooseCustomer chosen={customer} error={faults.customer} onChoose={setCustomerId} />
        )}
        {who === 'new' && form && (
          <ContactFields form={form} contact={contact} problem={more} onChange={setContact} />
        )}
        <LabelledField label="Plan and rate" error={faults.rate}>
          <NativeSelect.Root size="sm">
            <NativeSelect.Field bg="page" value={rateId} onChange={(event) => setRateId(event.target.value)}>
              <option value="">Choose …</option>
              {plans?.map((plan) => (
                <optgroup key={plan.id} label={plan.name}>
                  {plan.rates.map((one) => (
                    <option key={one.id} value={one.id}>
                      {plan.name}, {one.name}: {one.says}
                    </option>
                  ))}
                </optgroup>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </LabelledField>
        <Flex gap="3" align="flex-start">
          <Box w="180px">
            <DateField
              label="Starts"
              required
              min={businessDate}
              value={starts}
              error={faults.starts}
              onChange={(event) => setStarts(event.target.value)}
            />
          </Box>
        </Flex>
        {plan && rate && (
          <ChoiceFields
            plan={plan}
            rate={rate}
            draft={{ ...choice, variantId }}
            faultAt={faultAt}
            cards={cards}
            codeSays={more?.at('/codes/0') ?? codeSays}
            codeHint={codeHint}
            onChange={(to) => setChoice((now) => ({ ...now, ...to }))}
          />
        )}
        {form?.invoiceFields.map(({ label, required }) => (
          <TextField
            key={label}
            label={label}
            required={required}
            maxLength={120}
            value={invoiceFields[label] ?? ''}
            error={more?.at(`/invoiceFields/${label}`)}
            onChange={(event) => setInvoiceFields({ ...invoiceFields, [label]: event.target.value })}
          />
        ))}
        <PayFields
          rate={rate}
          paying={paying}
          gateway={gateway}
          kept={customer?.cardState === 'usable' ? customer.card : null}
          otherCard={otherCard}
          card={card}
          faults={{ ...faults, pays: more?.at('/pays') }}
          onPays={setPays}
          onOtherCard={setOtherCard}
          onCard={setCard}
        />
      </Grid>
    </PageAndMargin>
  );
}

/** Whether a problem stands beside a field of the form that is not of its first part. */
function beside(problem: Problem | null): boolean {
  return (
    problem?.faults.some(({ pointer }) =>
      /^\/(customer\/(?!email)|invoiceFields\/|codes\/|answers\/|amount$|pays$|variantId$)/.test(pointer),
    ) ?? false
  );
}

function missingOf(typed: {
  who: 'new' | 'existing';
  name: string;
  email: string;
  customerId: string;
  rate: RateView | undefined;
  needsCard: boolean;
  card: { number: string; expires: string };
}): string[] {
  const missing: string[] = [];
  if (typed.who === 'new' && typed.name.trim() === '') missing.push('a name');
  if (typed.who === 'new' && typed.email.trim() === '') missing.push('an e-mail address');
  if (typed.who === 'existing' && typed.customerId === '') missing.push('the customer');
  if (typed.rate === undefined) missing.push('a plan');
  if (typed.needsCard && (typed.card.number.trim() === '' || typed.card.expires.trim() === ''))
    missing.push('a card to charge');
  return missing;
}
