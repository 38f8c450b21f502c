import { Flex, Grid, RadioGroup, Text } from '@chakra-ui/react';
import { useMemo } from 'react';
import { parseDay } from '../../../core/dates/day.ts';
import { useNavigate, useSearchParams } from 'react-router';
import type { PlanView, RateView } from '../../../server/plans/messages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { post } from '../../api/client.ts';
import { giveCard } from '../../api/gateway.ts';
import type { Terms } from '../../../core/terms/schema.ts';
import { sayAgreed } from '../../../core/words/sayAgreed.ts';
import { useLaw, useTaxSaid } from '../../api/useLaw.ts';
import { useAnswer, useCardGateway } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { entryOf } from '../../parts/CardFields.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { DateField } from '../../parts/DateField.tsx';
import { Fold } from '../../parts/Fold.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { PricesBeside } from '../../parts/PricesBeside.tsx';
import { TermsPreview } from '../../parts/TermsPreview.tsx';
import { SelectField, TextField } from '../../parts/TextField.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { ContactFields, lawOf } from './ContactFields.tsx';
import { ChooseCustomer, useChosenCustomer } from './enrol/ChooseCustomer.tsx';
import { CardAndCode, ChoiceFields } from './enrol/ChoiceFields.tsx';
import {
  fieldOf,
  messageOf,
  missingOf,
  newEnrolment,
  requiredOf,
  type EnrolDraft,
} from './enrol/enrolDraft.ts';
import { PayFields } from './enrol/PayFields.tsx';
import { payingOf } from './enrol/paying.ts';
import { useChoice } from './enrol/useChoice.ts';

/** Enrols a customer. The margin shows what will be charged and when, and says what is still missing. */
export function EnrolPage() {
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const [params] = useSearchParams();
  const given = params.get('customer');
  if (!form || !plans) return <PageLoading title="Enrol a customer" shape="form" />;
  return <Enrol key={given} form={form} plans={plans} given={given} />;
}

function Enrol(props: {
  readonly form: EnrolmentForm;
  readonly plans: readonly PlanView[];
  readonly given: string | null;
}) {
  const { form, plans, given } = props;
  const { businessDate } = useFrame();
  const navigate = useNavigate();
  const initial = useMemo(() => newEnrolment(businessDate, given), [businessDate, given]);
  const { draft, setDraft, kept } = useKeptDraft(given === null ? 'enrol' : `enrol:${given}`, initial);
  const change = (to: Partial<EnrolDraft>) => setDraft((now) => ({ ...now, ...to }));
  const { who, choice, contact, starts, rateId } = draft;
  const customerId = who === 'existing' ? draft.customerId : '';
  const customer = useChosenCustomer(customerId);
  const purpose = { rateId, customerId };
  const gateway = useCardGateway(purpose);
  const group = who === 'new' ? (contact.group ?? '').trim() : '';
  const chosen = useChoice({ plans, rateId, choice, starts, lastDay: draft.lastDay, customerId, group });
  const { plan, rate, computed, cards, variantId, codeSays, codeHint } = chosen;
  const customerLaw = who === 'new' ? lawOf(contact) : lawOf(customer ?? {});
  const tax = useTaxSaid(rate?.taxId, rate?.terms.tax as Terms['tax'], businessDate, customerLaw);
  const compile = useLaw(rate?.taxId, customerLaw);
  const hasCard = customer?.cardState === 'usable' && !draft.otherCard;
  const paying = payingOf(rate, { pays: draft.pays, card: draft.card, hasCard });
  const facts = { businessDate, plan, rate, computed, variantId, form, paying, codeSays };
  const enrolment = useDraftForm({
    message: messageOf(draft, facts),
    missing: missingOf(draft, facts),
    fieldOf,
    send: async ({ card, ...message }) => {
      const entry = paying.takesCard ? entryOf(card) : null;
      const cardToken = entry === null ? {} : { cardToken: await giveCard(purpose, entry, businessDate) };
      const { id } = await post<{ id: string }>('/api/subscriptions', { ...message, ...cardToken });
      kept.forget();
      await navigate(`/subscriptions/${id}`);
    },
  });
  const { problem, tried } = enrolment;
  // What is wrong with the card on file is said beside the fields of another.
  if (problem?.at('/cardToken') && !paying.takesCard && !draft.otherCard) change({ otherCard: true });
  const faultAt = (field: string) => {
    const said = enrolment.faultAt(field);
    const isTold = tried || field === 'amount' || field === 'quantity' || field.startsWith('extra:');
    return said ?? (isTold ? computed?.faults.get(field) : undefined);
  };
  const demanded = (field: string, says: string, isEmpty: boolean) =>
    faultAt(field) ?? (tried && isEmpty ? says : undefined);
  const folded = [draft.lastDay && 'a last day', choice.code && 'a code', choice.cardId && 'a rate card'];

  return (
    <PageAndMargin
      title="Enrol a customer"
      onSubmit={enrolment.confirm}
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
                  note={tax?.mode === 'exclusive' ? ' without tax' : ''}
                  lines={computed.besides}
                  currency={String(computed.terms.currency)}
                />
              )}
              {computed.agreed !== null && (
                <Text mb="2" fontWeight="500">
                  {sayAgreed(computed.agreed, starts > businessDate ? starts : businessDate, tax)}
                </Text>
              )}
              <TermsPreview terms={computed.terms} today={businessDate} compile={compile} />
            </>
          )}
          <Confirm
            of={enrolment}
            label="Enrol"
            ready={`Nothing is missing.${starts === businessDate ? ' It starts when today’s page is turned.' : ''}`}
          >
            {rate && form.termsVersion !== null && paying.takesCard && (
              <Text color="muted" mb="3">
                The mandate keeps version {form.termsVersion} of the terms of service.
              </Text>
            )}
          </Confirm>
        </>
      }
    >
      <KeptNote kept={kept}>A card is not kept: it is to be typed again.</KeptNote>
      <Grid gap="4" maxW="720px">
        <Flex gap="3" align="flex-start">
          <SelectField
            label="Plan and rate"
            field="rateId"
            value={rateId}
            error={demanded('rateId', 'Choose a plan and a rate.', rateId === '')}
            onChange={(event) => change({ rateId: event.target.value })}
          >
            <option value="">Choose …</option>
            {plans.map((one) => (
              <optgroup key={one.id} label={one.name}>
                {one.rates
                  .filter(({ archivedOn }) => archivedOn === null)
                  .map(({ id, name, says }) => (
                    <option key={id} value={id}>
                      {one.name}, {name}: {says}
                    </option>
                  ))}
              </optgroup>
            ))}
          </SelectField>
          <DateField
            label="Starts"
            field="starts"
            w="200px"
            required
            min={businessDate}
            value={starts}
            error={faultAt('starts')}
            onChange={(event) => change({ starts: event.target.value })}
          />
        </Flex>
        {plan && rate && (
          <ChoiceFields
            plan={plan}
            rate={rate}
            draft={{ ...choice, variantId }}
            faultAt={faultAt}
            onChange={(to) => setDraft((now) => ({ ...now, choice: { ...now.choice, ...to } }))}
          />
        )}
        <Flex gap="4" align="flex-start" wrap="wrap">
          <RadioGroup.Root
            aria-label="Who"
            value={who}
            onValueChange={({ value }) => change({ who: value === 'existing' ? 'existing' : 'new' })}
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
        </Flex>
        {who === 'new' ? (
          <>
            <Flex gap="3" align="flex-start">
              <TextField
                label="Name"
                field="customer/name"
                required
                maxLength={200}
                value={draft.name}
                error={demanded('customer/name', 'Give a name.', draft.name.trim() === '')}
                onChange={(event) => change({ name: event.target.value })}
              />
              <TextField
                label="E-mail"
                field="customer/email"
                type="email"
                required
                maxLength={200}
                value={draft.email}
                error={demanded(
                  'customer/email',
                  'Give an e-mail address, such as ada@post.example.',
                  enrolment.missing.some(({ field }) => field === 'customer/email'),
                )}
                onChange={(event) => change({ email: event.target.value })}
              />
            </Flex>
            <ContactFields
              form={form}
              contact={contact}
              faultAt={faultAt}
              required={requiredOf(form)}
              onChange={(to) => change({ contact: to })}
            />
          </>
        ) : (
          <ChooseCustomer
            chosen={customer}
            error={demanded('customer', 'Choose a customer.', customerId === '')}
            onChoose={(id) => change({ customerId: id })}
          />
        )}
        {form.invoiceFields.map(({ label, required }) => (
          <TextField
            key={label}
            label={label}
            field={`invoiceFields/${label}`}
            required={required}
            maxLength={120}
            value={draft.invoiceFields[label] ?? ''}
            error={faultAt(`invoiceFields/${label}`)}
            onChange={(event) =>
              change({ invoiceFields: { ...draft.invoiceFields, [label]: event.target.value } })
            }
          />
        ))}
        <PayFields
          rate={rate}
          paying={paying}
          gateway={gateway}
          kept={customer?.cardState === 'usable' ? customer.card : null}
          otherCard={draft.otherCard}
          card={draft.card}
          faults={{ number: faultAt('number'), expires: faultAt('expires'), pays: faultAt('pays') }}
          onPays={(pays) => change({ pays })}
          onOtherCard={(otherCard) => change({ otherCard })}
          onCard={(card) => change({ card })}
        />
        {plan && rate && (
          <Fold
            title="A code, a rate card, a last day"
            holds={folded.filter(Boolean).join(', ') || 'none given'}
            open={folded.some(Boolean)}
          >
            <Flex gap="3" align="flex-start" wrap="wrap">
              <CardAndCode
                draft={choice}
                cards={cards}
                codeSays={enrolment.faultAt('codes/0') ?? codeSays}
                codeHint={codeHint}
                onChange={(to) => setDraft((now) => ({ ...now, choice: { ...now.choice, ...to } }))}
              />
              <DateField
                label="Last day, of this subscription alone"
                field="lastDay"
                w="260px"
                min={parseDay(starts) === null ? businessDate : starts}
                value={draft.lastDay}
                error={faultAt('lastDay')}
                hint={lastDaySays(rate)}
                disabled={endsByItself(rate)}
                onChange={(event) => change({ lastDay: event.target.value })}
              />
            </Flex>
          </Fold>
        )}
      </Grid>
    </PageAndMargin>
  );
}

/** Whether a rate ends after a number of payments, so that no other last day can be given. */
const endsByItself = ({ terms }: RateView) =>
  terms.lines === undefined || (terms.ends as { after?: number } | undefined)?.after !== undefined;

function lastDaySays(rate: RateView): string {
  if (rate.terms.lines === undefined) return 'It is sold once.';
  if (endsByItself(rate)) return 'This rate ends after its payments.';
  return 'Empty: as the rate says. The last period is charged for its days.';
}
