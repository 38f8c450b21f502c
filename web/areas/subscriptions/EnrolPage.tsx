import { Box, Button, Flex, Grid, NativeSelect, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { useSWRConfig } from 'swr';
import type { CustomerRow } from '../../../server/customers/messages.ts';
import type { Page } from '../../../server/http/list.ts';
import type { PlanView, RateView } from '../../../server/plans/messages.ts';
import type { EnrolmentForm, EnrolmentMessage } from '../../../server/subscriptions/messages.ts';
import { post, Problem, withQuery } from '../../api/client.ts';
import { tokenForCard } from '../../api/gateway.ts';
import { useLaw } from '../../api/useLaw.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { CardFields, entryOf, faultsOfCard, NO_CARD } from '../../parts/CardFields.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { ContactFields, lawOf, type Contact } from './ContactFields.tsx';
import { LabelledField, TextField } from '../../parts/TextField.tsx';

type Faults = Partial<
  Record<'name' | 'email' | 'customer' | 'rate' | 'starts' | 'quantity' | 'number' | 'expires', string>
>;

/** Enrols a customer. The margin shows what will be charged and when, and says what is still missing. */
export function EnrolPage() {
  const { businessDate, gateway, practice } = useFrame();
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
  const [quantity, setQuantity] = useState('1');
  const [card, setCard] = useState(NO_CARD);
  const [contact, setContact] = useState<Contact>({});
  const [invoiceFields, setInvoiceFields] = useState<Record<string, string>>({});
  const [code, setCode] = useState('');
  const [more, setMore] = useState<Problem | null>(null);
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const [otherCard, setOtherCard] = useState(false);
  const [faults, setFaults] = useState<Faults>({});
  const [busy, setBusy] = useState(false);
  const [says, setSays] = useState('');
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const customer = useChosenCustomer(who === 'existing' ? customerId : '');

  const rate = plans?.flatMap((plan) => plan.rates).find(({ id }) => id === rateId);
  const counted = rate !== undefined && countsQuantity(rate);
  const compile = useLaw(rate?.taxId, who === 'new' ? lawOf(contact) : lawOf(customer ?? {}));
  const known = useAnswer<{ discount: object }>(
    rateId === '' || !/^[\w-]{3,40}$/.test(code.trim())
      ? null
      : withQuery(`/api/codes/${encodeURIComponent(code.trim())}`, { rateId }),
  );
  const codeSays = code.trim() === '' ? undefined : known.error?.message;
  const taken = code.trim() !== '' && !known.error ? known.data?.discount : undefined;
  const hasCard = customer?.cardState === 'usable' && !otherCard;
  const missing = missingOf({ who, name, email, customerId, rate, hasCard, card });

  const check = (): Faults => ({
    ...(who === 'new' && name.trim() === '' ? { name: 'Give a name.' } : {}),
    ...(who === 'new' && !/^[^@\s]+@[^@\s]+\.[^@\s]+$/.test(email.trim())
      ? { email: 'Give an e-mail address, such as ada@post.example.' }
      : {}),
    ...(who === 'existing' && customerId === '' ? { customer: 'Choose a customer.' } : {}),
    ...(rate === undefined ? { rate: 'Choose a plan and a rate.' } : {}),
    ...(starts < businessDate ? { starts: 'Start on the business day or later.' } : {}),
    ...(counted && !/^[1-9]\d{0,8}$/.test(quantity) ? { quantity: 'Give a whole number from 1.' } : {}),
    ...(hasCard ? {} : faultsOfCard(card)),
  });

  const confirm = async () => {
    const found = check();
    setFaults(found);
    setSays('');
    if (Object.keys(found).length > 0) return;
    setBusy(true);
    try {
      const entry = hasCard ? null : entryOf(card);
      const cardToken = entry === null ? undefined : await tokenForCard(gateway, entry);
      const message: EnrolmentMessage = {
        customer: who === 'new' ? { name: name.trim(), email: email.trim(), ...contact } : { id: customerId },
        invoiceFields,
        ...(code.trim() === '' ? {} : { codes: [code.trim()] }),
        rateId,
        starts,
        ...(counted ? { quantity: Number(quantity) } : {}),
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
          {rate === undefined ? (
            <Text color="muted">Choose a plan to see its charges, day by day.</Text>
          ) : (
            <TermsPreview
              terms={withDiscount(termsOf(rate, starts, counted ? quantity : ''), taken)}
              today={businessDate}
              compile={compile}
            />
          )}
          {form && form.termsVersion !== null && !hasCard && (
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
            <TextField
              label="Starts"
              type="date"
              required
              min={businessDate}
              value={starts}
              error={faults.starts}
              onChange={(event) => setStarts(event.target.value)}
            />
          </Box>
          {counted && (
            <Box w="120px">
              <TextField
                label="How many"
                inputMode="numeric"
                maxLength={9}
                value={quantity}
                error={faults.quantity}
                onChange={(event) => setQuantity(event.target.value)}
              />
            </Box>
          )}
        </Flex>
        <Box w="240px">
          <TextField
            label="Discount code"
            maxLength={40}
            value={code}
            error={more?.at('/codes/0') ?? codeSays}
            hint={taken ? 'It is in the charges at the right.' : 'If there is one.'}
            onChange={(event) => setCode(event.target.value)}
          />
        </Box>
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
        {customer?.card && customer.cardState === 'usable' && (
          <Flex gap="3" align="center">
            <Text>
              {otherCard ? 'Another card is taken instead of' : 'Charged to'} {customer.card}.
            </Text>
            <Button size="xs" variant="outline" onClick={() => setOtherCard(!otherCard)}>
              {otherCard ? 'Keep that card' : 'Take another card'}
            </Button>
          </Flex>
        )}
        {!hasCard && (
          <CardFields card={card} onChange={setCard} faults={faults} gateway={gateway} practice={practice} />
        )}
      </Grid>
    </PageAndMargin>
  );
}

/** The terms with what a code takes off, as the server will add it. */
function withDiscount(terms: Record<string, unknown>, discount: object | undefined): Record<string, unknown> {
  if (discount === undefined) return terms;
  return { ...terms, discounts: [...((terms.discounts as object[] | undefined) ?? []), discount] };
}

/** Whether a problem stands beside a field of the form that is not of its first part. */
function beside(problem: Problem | null): boolean {
  return (
    problem?.faults.some(({ pointer }) => /^\/(customer\/(?!email)|invoiceFields\/|codes\/)/.test(pointer)) ??
    false
  );
}

function useChosenCustomer(id: string): CustomerRow | undefined {
  const { data: known } = useAnswer<{ name: string }>(id === '' ? null : `/api/customers/${id}`);
  const { data } = useAnswer<Page<CustomerRow>>(
    id === '' || !known ? null : withQuery('/api/customers', { search: known.name }),
  );
  return id === '' ? undefined : data?.rows.find((row) => row.id === id);
}

function ChooseCustomer(props: {
  chosen: CustomerRow | undefined;
  error: string | undefined;
  onChoose: (id: string) => void;
}) {
  const { chosen, error, onChoose } = props;
  const [search, setSearch] = useState('');
  const { data } = useAnswer<Page<CustomerRow>>(
    search.trim() === '' ? null : withQuery('/api/customers', { search }),
  );
  if (chosen) {
    return (
      <Flex gap="3" align="center">
        <Text fontWeight="600">{chosen.name}</Text>
        <Text color="muted">{chosen.email}</Text>
        <Button size="xs" variant="outline" onClick={() => onChoose('')}>
          Choose another
        </Button>
      </Flex>
    );
  }
  return (
    <Box>
      <TextField
        label="Find the customer"
        placeholder="Name or e-mail"
        value={search}
        error={error}
        onChange={(event) => setSearch(event.target.value)}
      />
      {search.trim() !== '' && (
        <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" mt="1">
          {data?.rows.slice(0, 6).map((row) => (
            <Button
              key={row.id}
              variant="ghost"
              size="sm"
              w="full"
              justifyContent="flex-start"
              onClick={() => onChoose(row.id)}
            >
              {row.name}
              <Box as="span" color="muted" fontWeight="400">
                {row.email}
              </Box>
            </Button>
          ))}
          {data?.rows.length === 0 && <Text p="2">Nobody of that name.</Text>}
        </Box>
      )}
    </Box>
  );
}

const COUNTED = new Set(['per-unit', 'graduated', 'volume', 'stairs', 'package']);

function countsQuantity(rate: RateView): boolean {
  const lines = rate.terms.lines as { price?: { scheme?: string } }[] | undefined;
  return COUNTED.has(lines?.[0]?.price?.scheme ?? '');
}

/** The terms that this enrolment comes to: the same as the server will make of it. */
function termsOf(rate: RateView, starts: string, quantity: string): Record<string, unknown> {
  const { lines, once } = rate.terms as { lines?: object[]; once?: object[] };
  return {
    ...rate.terms,
    starts,
    ...(once ? { once: once.map((entry) => ({ date: starts, ...entry })) } : {}),
    ...(lines && /^[1-9]\d{0,8}$/.test(quantity)
      ? { lines: lines.map((line, i) => (i === 0 ? { ...line, quantity: Number(quantity) } : line)) }
      : {}),
  };
}

function missingOf(typed: {
  who: 'new' | 'existing';
  name: string;
  email: string;
  customerId: string;
  rate: RateView | undefined;
  hasCard: boolean;
  card: { number: string; expires: string };
}): string[] {
  const missing: string[] = [];
  if (typed.who === 'new' && typed.name.trim() === '') missing.push('a name');
  if (typed.who === 'new' && typed.email.trim() === '') missing.push('an e-mail address');
  if (typed.who === 'existing' && typed.customerId === '') missing.push('the customer');
  if (typed.rate === undefined) missing.push('a plan');
  if (!typed.hasCard && (typed.card.number.trim() === '' || typed.card.expires.trim() === ''))
    missing.push('a card to charge');
  return missing;
}
