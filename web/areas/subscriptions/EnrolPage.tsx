import { Box, Button, Grid, Text } from '@chakra-ui/react';
import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { CustomerView } from '../../../server/customers/messages.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import type { EnrolmentDraft } from '../../../server/reckonings/draftMessages.ts';
import type { EnrolmentForm } from '../../../server/subscriptions/messages.ts';
import { useSWRConfig } from 'swr';
import { firstDues } from '../../../core/listing/firstDues.ts';
import { post, Problem } from '../../api/client.ts';
import { giveCard, tokenForBank } from '../../api/gateway.ts';
import type { Terms } from '../../../core/terms/schema.ts';
import { useLaw, useTaxSaid } from '../../api/useLaw.ts';
import { useAnswer, useGateways } from '../../api/hooks.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { goOnToField } from '../../frame/pageForm.ts';
import { useFrame } from '../../frame/useFrame.ts';
import { entryOf } from '../../parts/card.ts';
import { Confirm } from '../../parts/Confirm.tsx';
import { KeptNote } from '../../parts/KeptNote.tsx';
import { laidOver, useKeptDraft } from '../../parts/keptDraft.ts';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { lawOf } from './ContactFields.tsx';
import { NewWho } from './enrol/NewWho.tsx';
import { ChoiceFields } from './enrol/ChoiceFields.tsx';
import { draftOf, fieldOf, messageOf, missingOf, newEnrolment, type EnrolDraft } from './enrol/enrolDraft.ts';
import { beginRate, sayNewRate } from './enrol/newRate.ts';
import { NoSuchDraft, StoredNote, useStoredDraft } from './enrol/StoredDraft.tsx';
import { useRecurring } from './enrol/useRecurring.ts';
import { PayFields } from './enrol/PayFields.tsx';
import { MoreFields } from './enrol/MoreFields.tsx';
import { PlaceOf, usualPlace } from './enrol/PlaceOf.tsx';
import { payingOf } from './enrol/paying.ts';
import { InvoiceWords } from './enrol/InvoiceWords.tsx';
import { letterOf } from './enrol/letterOf.ts';
import { NO_CHOICE, type ComputedChoice } from './enrol/choice.ts';
import { EnrolMargin } from './enrol/EnrolMargin.tsx';
import { insideOf, useAlso } from './enrol/useAlso.ts';
import { RateField } from './enrol/RateField.tsx';
import { useChoice } from './enrol/useChoice.ts';
import { useChosenCustomer, useMethods, useSameAddress, WhoField } from './enrol/WhoField.tsx';

/** Comes only where there is another plan. */
const AlsoFields = lazy(() => import('./enrol/AlsoFields.tsx'));
/** Comes once there is something to save. */
const SaveDraft = lazy(() => import('./enrol/SaveDraft.tsx'));
const BESIDE_LACKS = {
  name: 'Give a name.',
  email: 'Give an e-mail address, such as ada@post.example.',
};
/** So many others can be taken with the first. */
const MOST_ALSO = 5;

/** So many of the first charges are held against what the server comes to. */
const SHOWN = 12;

/** Enrols a customer. The margin shows what will be charged and when, and says what is still missing. */
export function EnrolPage() {
  const { data: form } = useAnswer<EnrolmentForm>('/api/enrolment-form');
  const { data: plans } = useAnswer<PlanView[]>('/api/plans');
  const [params] = useSearchParams();
  const opened = params.get('draft');
  const { stored, says } = useStoredDraft(opened);
  const given = { customer: params.get('customer'), rate: params.get('rate') ?? '' };
  if (says !== undefined) return <NoSuchDraft says={says} />;
  if (!form || !plans || (opened !== null && !stored))
    return <PageLoading title="Enrol a customer" shape="form" />;
  return (
    <Enrol
      key={`${given.customer} ${given.rate} ${stored?.id} ${stored?.version}`}
      {...{ form, plans, given, stored }}
    />
  );
}

function Enrol(props: {
  readonly form: EnrolmentForm;
  readonly plans: readonly PlanView[];
  readonly given: { readonly customer: string | null; readonly rate: string };
  /** What a colleague, or oneself, saved before. */
  readonly stored: EnrolmentDraft | undefined;
}) {
  const { form, plans, given, stored } = props;
  const { businessDate } = useFrame();
  const navigate = useNavigate();
  const { mutate } = useSWRConfig();
  const recurring = useRecurring();
  const [making] = useState(() => (recurring === undefined ? null : beginRate(plans, recurring)));
  const initial = useMemo(() => {
    const empty = newEnrolment(businessDate, given.customer, given.rate, making);
    return stored === undefined ? empty : laidOver(empty, draftOf(stored));
  }, [businessDate, given.customer, given.rate, making, stored]);
  const { draft, setDraft, kept } = useKeptDraft(
    [
      'enrol',
      ...(stored === undefined ? [given.customer, given.rate] : ['draft', stored.id, stored.version]),
      making && JSON.stringify(recurring),
    ]
      .filter(Boolean)
      .join(':'),
    initial,
  );
  const waitsForCustomer = useRef(false);
  const change = (to: Partial<EnrolDraft>) => setDraft((now) => ({ ...now, ...to }));
  const { who, choice, contact, starts, rateId } = draft;
  const customerId = who === 'existing' ? draft.customerId : '';
  const customer = useChosenCustomer(customerId);
  const known = useSameAddress(who === 'new' ? draft.email : '');
  const hasCard = customer?.cardState === 'usable';
  // A card for this alone need not serve what the customer has already.
  const isOwn = hasCard && draft.cardRole === 'own';
  const purpose = { rateId, customerId: isOwn ? '' : customerId };
  const { gateway, others: otherGateways, bank } = useGateways(purpose);
  const group = who === 'new' ? (contact.group ?? '').trim() : '';
  const first = plans.flatMap(({ rates }) => rates).find(({ id }) => id === rateId);
  const others = useAlso({ plans, also: draft.also, starts, customerId, group, first });
  const chosen = useChoice({
    ...{ plans, rateId, choice, starts, lastDay: draft.lastDay, own: draft.own, customerId, group },
    beside: insideOf(others),
  });
  const { plan, rate, computed, cards, variantId, codeSays, codeHint } = chosen;
  const isGoods = plan?.kind === 'goods' || others.some((one) => one.inside && one.plan?.kind === 'goods');
  const { data: details } = useAnswer<CustomerView>(
    isGoods && customerId !== '' ? `/api/customers/${customerId}` : null,
  );
  const usual = usualPlace(who === 'new' ? contact : details);
  const billed = who === 'new' ? lawOf(contact) : lawOf(customer ?? {});
  // Taxes are those of the place that it is for.
  const at = draft.place ?? (isGoods ? usual : null);
  const customerLaw = at === null ? billed : { ...billed, country: at.country || null, region: at.region };
  const tax = useTaxSaid(
    rate?.taxId,
    (computed?.terms.tax ?? rate?.terms.tax) as Terms['tax'],
    businessDate,
    customerLaw,
  );
  const methods = useMethods(customerId);
  const onFile = methods.find(({ id, role }) =>
    draft.methodId === '' ? role === 'primary' : id === draft.methodId,
  );
  const fileIsBank = onFile?.kind === 'bank account';
  const paying = payingOf(rate, {
    ...{ pays: draft.pays, card: draft.card, hasCard, gateway, bank, fileIsBank },
    ...(computed ? { hasTrial: computed.terms.trial !== undefined } : {}),
  });
  const readByLaw = useLaw(rate?.taxId, customerLaw, paying.paidAs);
  const sources = JSON.stringify(computed?.sources ?? []);
  const compile = useCallback(
    (terms: Terms) => readByLaw(terms, JSON.parse(sources) as ComputedChoice['sources']),
    [readByLaw, sources],
  );
  const asksHolder = gateway?.holder === 'required';
  const sameAddress = who === 'new' ? known?.name : undefined;
  const agreed = computed?.agreed ?? null;
  const compiled = useMemo(() => (agreed === null ? null : compile(agreed)), [agreed, compile]);
  const shown = useMemo(() => (compiled === null ? null : firstDues(compiled, SHOWN)), [compiled]);
  const facts = {
    asksHolder,
    hasAddress: usual !== null,
    others,
    businessDate,
    plan,
    rate,
    computed,
    variantId,
    form,
    paying,
    codeSays,
    sameAddress,
    shown,
  };
  const enrolment = useDraftForm({
    message: messageOf(draft, facts),
    missing: missingOf(draft, facts),
    fieldOf,
    send: async ({ card, bank: account, ...message }) => {
      const entry = paying.takesCard ? entryOf(card) : null;
      const given =
        paying.way === 'bank'
          ? { bankToken: await tokenForBank(bank, account) }
          : entry === null
            ? {}
            : { cardToken: await giveCard(purpose, entry, businessDate, draft.keptAt) };
      const { id, customerId: of } = await post<{ id: string; customerId: string }>('/api/subscriptions', {
        ...message,
        ...given,
        ...(stored === undefined ? {} : { draft: stored.id }),
      }).catch(askAnew);
      kept.forget();
      await navigate(others.every(({ inside }) => inside) ? `/subscriptions/${id}` : `/customers/${of}`);
    },
  });
  /** What was shown is not what it comes to any more: it is asked for anew, and stands in the margin. */
  async function askAnew(error: unknown): Promise<never> {
    if (error instanceof Problem && error.at('/shown'))
      await mutate((key) => typeof key === 'string' && key.startsWith('/api/'));
    throw error;
  }
  const chooseCustomer = (id: string) => {
    change({ who: 'existing', customerId: id, sought: '', pays: null, methodId: '' });
    goOnToField(id === '' ? 'customer' : rateId === '' ? 'rateId' : 'pays');
  };
  // Whoever types faster than the customer is read comes to the way to pay once it is known.
  useEffect(() => {
    if (!waitsForCustomer.current || customer === undefined) return;
    waitsForCustomer.current = false;
    goOnToField(hasCard ? 'pays' : 'number');
  }, [customer, hasCard]);
  const { problem, tried } = enrolment;
  // What is wrong with the card on file is said beside the fields of another.
  if (problem?.at('/cardToken') && paying.way === 'file') change({ pays: 'typed' });
  // A card that was read and refused is to be read anew.
  if (problem?.at('/cardToken') && draft.cardToken !== null) change({ cardToken: null });
  const lacks = (field: string) => enrolment.missing.some((one) => one.field === field);
  const faultAt = (field: string) => {
    const said = enrolment.faultAt(field);
    const isTold =
      tried || /^(amount$|quantity$|extra:|own\/(termDays|trialDays|billingDay|setUp|discount))/.test(field);
    if (said === undefined && tried && field.startsWith('contacts/'))
      return lacks(field) ? BESIDE_LACKS[field.endsWith('name') ? 'name' : 'email'] : undefined;
    return said ?? (isTold ? computed?.faults.get(field) : undefined);
  };
  const demanded = (field: string, says: string, isEmpty: boolean) =>
    faultAt(field) ?? (tried && isEmpty ? says : undefined);
  const placeOf = (
    <PlaceOf
      isGoods={isGoods}
      place={draft.place}
      usual={usual}
      offered={isGoods && form.shipsTo.length > 0 ? form.shipsTo : form.serves}
      country={billed.country ?? form.law.homeCountry}
      faultAt={(field) =>
        faultAt(field) ?? (tried ? enrolment.missing.find((one) => one.field === field)?.says : undefined)
      }
      onChange={(place) => change({ place })}
    />
  );
  const words = {
    ...{ values: draft.invoiceFields, faultAt },
    onChange: (invoiceFields: EnrolDraft['invoiceFields']) => change({ invoiceFields }),
  };
  const optional = form.invoiceFields.filter(({ required }) => !required);

  return (
    <PageAndMargin
      title="Enrol a customer"
      onSubmit={enrolment.confirm}
      margin={
        <EnrolMargin
          {...{ computed, compile, compiled, tax, starts, shown, others }}
          law={customerLaw}
          paidAs={paying.paidAs}
          issueBefore={rate?.options.issueDaysBefore}
        >
          <Confirm
            of={enrolment}
            label="Enrol"
            ready={`Nothing is missing.${starts === businessDate ? ' It starts when today’s page is turned.' : ''}`}
          >
            {rate && form.termsVersion !== null && (paying.takesCard || paying.way === 'bank') && (
              <Text color="muted" mb="3">
                The mandate keeps version {form.termsVersion} of the terms of service.
              </Text>
            )}
          </Confirm>
          {(stored !== undefined || draft !== initial) && (
            <Suspense fallback={null}>
              <SaveDraft
                {...{
                  draft,
                  who: (draft.who === 'new' ? draft.name : customer?.name) ?? '',
                  onSaved: kept.forget,
                }}
                of={stored ?? null}
                what={
                  draft.making ? sayNewRate(draft.making) : plan && rate ? `${plan.name}, ${rate.name}` : ''
                }
              />
            </Suspense>
          )}
        </EnrolMargin>
      }
    >
      {stored && <StoredNote draft={stored} />}
      <KeptNote kept={kept}>A card is not kept: it is to be typed again.</KeptNote>
      <Grid gap="4" maxW="720px">
        {who === 'new' ? (
          <NewWho
            {...{ draft, form, known, faultAt, demanded }}
            lacks={lacks}
            onChange={change}
            onChoose={chooseCustomer}
          />
        ) : (
          <WhoField
            chosen={customer}
            typed={draft.sought}
            error={demanded('customer', 'Choose a customer, or type somebody new.', customerId === '')}
            onTyped={(sought) => change({ sought })}
            onChoose={chooseCustomer}
            onNew={({ name, email }) => {
              change({ who: 'new', name, email, sought: '', pays: null });
              const next = name === '' ? 'customer/name' : email === '' ? 'customer/email' : 'rateId';
              goOnToField(next === 'rateId' && rateId !== '' ? 'number' : next);
            }}
          />
        )}
        <RateField
          plans={plans}
          chosen={plan && rate ? { plan, rate, once: draft.rateOnce } : null}
          error={demanded('rateId', 'Choose a plan and a rate.', rateId === '')}
          made={{ draft: draft.making, onChange: (rate) => change({ making: rate }) }}
          onLeave={() => {
            change({ rateId: '', rateOnce: false });
            goOnToField('rateId');
          }}
          onTake={(id, once) => {
            change({ rateId: id, rateOnce: once });
            if (customerId === '' || customer !== undefined) goOnToField(hasCard ? 'pays' : 'number');
            else waitsForCustomer.current = true;
          }}
        />
        {plan && rate && (
          <ChoiceFields
            plan={plan}
            rate={rate}
            draft={{ ...choice, variantId }}
            faultAt={faultAt}
            onChange={(to) => setDraft((now) => ({ ...now, choice: { ...now.choice, ...to } }))}
          />
        )}
        {isGoods && placeOf}
        {rate && draft.also.length > 0 && (
          <Suspense fallback={<Text color="muted">Loading …</Text>}>
            <AlsoFields
              {...{ plans, others, faultAt, also: draft.also }}
              onChange={(also) => change({ also })}
            />
          </Suspense>
        )}
        {rate && draft.also.length < MOST_ALSO && (
          <Box>
            <Button
              size="xs"
              variant="outline"
              onClick={() =>
                change({ also: [...draft.also, { rateId: '', choice: NO_CHOICE, inside: true }] })
              }
            >
              {draft.also.length === 0 ? 'Another plan beside it' : 'One more plan'}
            </Button>
          </Box>
        )}
        <InvoiceWords fields={form.invoiceFields.filter(({ required }) => required)} {...words} />
        <PayFields
          rate={rate}
          paying={paying}
          gateway={gateway}
          others={otherGateways}
          keptAt={draft.keptAt}
          onKeptAt={(keptAt) => change({ keptAt })}
          bankGateway={bank}
          bank={draft.bank}
          bankFaults={{ iban: faultAt('iban'), holder: faultAt('bankHolder') }}
          onBank={(typed) => change({ bank: typed })}
          kept={customer?.cardState === 'usable' ? customer.card : null}
          card={draft.card}
          faults={{
            ...{ number: faultAt('number'), expires: faultAt('expires'), holder: faultAt('holder') },
            pays: faultAt('pays'),
          }}
          onPays={(pays) => change({ pays })}
          onCard={(card) => change({ card })}
          methods={methods}
          methodId={draft.methodId}
          onMethod={(methodId) => change({ methodId })}
          cardRole={draft.cardRole}
          onRole={(cardRole) => change({ cardRole, cardToken: null })}
          purpose={purpose}
          hasRead={draft.cardToken !== null}
          onRead={(cardToken) => change({ cardToken })}
        />
        <MoreFields
          {...{ draft, rate, cards, codeHint, faultAt }}
          letter={rate ? letterOf(draft, { paying, shown, currency: String(rate.terms.currency) }) : null}
          codeSays={enrolment.faultAt('codes/0') ?? codeSays}
          hasTerms={form.termsVersion !== null}
          hasWords={
            optional.some(({ label }) => draft.invoiceFields[label]) || (!isGoods && draft.place !== null)
          }
          onChange={change}
          onChoice={(to) => setDraft((now) => ({ ...now, choice: { ...now.choice, ...to } }))}
          onOwn={(to) => setDraft((now) => ({ ...now, own: { ...now.own, ...to } }))}
        >
          {!isGoods && placeOf}
          <InvoiceWords fields={optional} {...words} />
        </MoreFields>
      </Grid>
    </PageAndMargin>
  );
}
