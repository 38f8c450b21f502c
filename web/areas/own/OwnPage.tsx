import { Box, Button, Flex, Heading, Link as TextLink, Text } from '@chakra-ui/react';
import { Fragment, lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';
import type { MethodKind } from '../../../server/customers/methodMessages.ts';
import type { OwnPage as OwnPageView, OwnPaid } from '../../../server/customers/ownMessages.ts';
import { post, Problem } from '../../api/client.ts';
import { tokenForBank, tokenForCard } from '../../api/gateway.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { AreaField } from '../../parts/TextField.tsx';
import { faultsOfBank, NO_BANK } from '../../parts/bank.ts';
import { CardFields } from '../../parts/CardFields.tsx';
import { entryOf, faultsOfCard, NO_CARD, type CardFaults } from '../../parts/card.ts';
import { CardOrBank } from '../../parts/CardOrBank.tsx';
import { Correspondence } from '../../parts/Correspondence.tsx';
import { MannerContext } from '../../parts/manner.ts';
import { CustomerSheet } from '../../parts/CustomerSheet.tsx';
import { ShownText } from '../../parts/ShownText.tsx';
import { ThreadLine } from '../../parts/ThreadLine.tsx';
import { threadWindow } from '../../parts/threadWindow.ts';
import { OwnChanges } from './OwnChanges.tsx';
import { OwnMethods } from './OwnMethods.tsx';
import { Line } from './OwnLine.tsx';
import { OwnPart } from './OwnPart.tsx';
import { OwnSayingContext, ownSayingIn, useOwnSaying } from './ownSaying.ts';
import { OwnTerms } from './OwnTerms.tsx';
import { sayCharged, sayDebts, sayGiven, titleOfCard } from './sayOwn.ts';
import { OwnTransfer, OwnUnderWay, sayBecame, useCameBack } from './OwnTransfer.tsx';

export { CameBack } from './OwnTransfer.tsx';

/** Comes with what checks the number, only where somebody pays so. */
const BankFields = lazy(() => import('../../parts/BankFields.tsx'));

/** A customer's own page: what is owed, a way to pay it, the card, and what is to come. No sign-in. */
export function OwnPage() {
  const { token = '' } = useParams();
  const path = `/api/own/${token}`;
  const { data: own, error, mutate } = useAnswer<OwnPageView>(path);
  const language = own?.language ?? 'en';
  useEffect(() => {
    document.documentElement.lang = language;
  }, [language]);
  if (error && !own) {
    return (
      <CustomerSheet business="" look={null}>
        <Text role="alert">{error.message}</Text>
      </CustomerSheet>
    );
  }
  if (!own)
    return (
      <CustomerSheet business="" look={null}>
        Loading …
      </CustomerSheet>
    );
  const { from, to } = threadWindow(own.businessDate, 120, 75);
  const saying = ownSayingIn({ language: own.language, locale: own.locale });
  const { words, amount, date, day } = saying;
  const owed = sayDebts(
    own.debts.filter(({ underWay }) => !underWay),
    saying,
  );
  return (
    <OwnSayingContext value={saying}>
      <MannerContext value={{ locale: own.locale, today: own.businessDate, business: own.business }}>
        <CustomerSheet business={own.business} look={own.look}>
          <title>{`${own.plan} · ${own.business}`}</title>
          {own.readOnly && (
            <Text bg="kelp.muted" px="3" py="2" mb="4" borderRadius="md">
              This is the page as the customer sees it. Nothing can be done on it from here.
            </Text>
          )}
          <Heading as="h1" size="2xl" fontWeight="500">
            {own.plan}
          </Heading>
          <Text color="muted">
            {own.customer}, {own.rate}
          </Text>
          {(own.about.picture || own.about.description) && (
            <Box mt="3">
              {own.about.picture && (
                <img
                  src={own.about.picture}
                  alt=""
                  style={{ maxWidth: '100%', borderRadius: 4, marginBottom: 8 }}
                />
              )}
              <ShownText html={own.about.description} />
            </Box>
          )}
          {own.about.documents.map(({ name, at }) => (
            <Text key={at}>
              <TextLink href={at} textDecoration="underline">
                {name} (PDF)
              </TextLink>
            </Text>
          ))}
          <Box my="4">
            <ThreadLine
              thread={own.thread}
              from={from}
              to={to}
              today={own.businessDate}
              label={words.thread}
              tall
            />
            <Flex justify="space-between" color="muted" fontSize="12px">
              <span>{day(from)}</span>
              <span>{day(to)}</span>
            </Flex>
          </Box>
          {own.state === 'lapsed' && (
            <Text mb="3">{words.stopped({ writeTo: own.writeTo, isOpen: owed !== '' })}</Text>
          )}
          {own.serviceStoppedOn !== null && (
            <Text mb="3">{words.serviceStopped(date(own.serviceStoppedOn))}</Text>
          )}
          {own.terms === null ? (
            <Debts own={own} owed={owed} path={path} onDone={() => void mutate()} />
          ) : (
            <OwnTerms version={own.terms} path={path} readOnly={own.readOnly} onDone={() => void mutate()} />
          )}
          {own.coming.length > 0 && (
            <OwnPart title={words.toCome}>
              {own.coming.map((payment) => (
                <Line
                  key={payment.dueOn}
                  left={date(payment.dueOn)}
                  right={amount(payment.due, own.currency)}
                />
              ))}
            </OwnPart>
          )}
          {own.credit.length > 0 && (
            <OwnPart title={words.credit}>
              {own.credit.map(({ currency, credit }) => (
                <Line key={currency} left={words.usedFirst} right={amount(credit, currency)} />
              ))}
            </OwnPart>
          )}
          {own.paid.length > 0 && (
            <OwnPart title={words.paid}>
              {own.paid.map((invoice) => (
                <Fragment key={invoice.number}>
                  <Line
                    left={(BigInt(invoice.total) < 0n ? words.creditInvoice : words.invoice)(
                      invoice.number,
                      day(invoice.dueOn),
                    )}
                    pdf={`${path}/invoices/${invoice.id}/document.pdf`}
                    right={amount(invoice.total, own.currency)}
                  />
                  {invoice.settled.map((line, i) => (
                    <Box key={i} ps="4" color="muted" fontSize="13px">
                      <Line left={line.says} right={amount(line.amount, own.currency)} />
                    </Box>
                  ))}
                </Fragment>
              ))}
            </OwnPart>
          )}
          <OwnChanges own={own} path={path} onDone={() => void mutate()} />
          <Write own={own} path={path} onDone={() => void mutate()} />
          {own.policies.map(({ kind, text }) => (
            <Box as="details" key={kind} mt="3">
              <summary>{words.policies[kind]}</summary>
              <Text whiteSpace="pre-wrap" fontSize="14px" mt="2" overflowWrap="anywhere">
                {text}
              </Text>
            </Box>
          ))}
        </CustomerSheet>
      </MannerContext>
    </OwnSayingContext>
  );
}

function Write(props: { readonly own: OwnPageView; readonly path: string; readonly onDone: () => void }) {
  const { own, path, onDone } = props;
  const { writeTo, readOnly, messages } = own;
  const { words, date } = useOwnSaying();
  const [text, setText] = useState('');
  const acting = useAct();
  const send = async () => {
    if (!(await acting.act(() => post(`${path}/message`, { text }), words.sent))) return;
    setText('');
    onDone();
  };
  return (
    <OwnPart title={messages.length > 0 ? words.messages : words.questions}>
      <Correspondence
        messages={messages}
        customer={words.you}
        business={own.business}
        label={words.messages}
        sayDate={date}
      />
      <AreaField
        label={words.writeHere}
        rows={3}
        maxLength={2000}
        hint={words.orByMail(writeTo)}
        value={text}
        error={acting.problem?.at('/text')}
        onChange={(event) => setText(event.target.value)}
      />
      <Button
        mt="2"
        size="sm"
        variant="outline"
        data-second
        disabled={readOnly || text.trim() === ''}
        loading={acting.busy}
        onClick={() => void send()}
      >
        {words.send}
      </Button>
      <Outcome of={acting} />
    </OwnPart>
  );
}

function Debts({
  own,
  owed,
  path,
  onDone,
}: {
  own: OwnPageView;
  owed: string;
  path: string;
  onDone: () => void;
}) {
  const { words, amount, date, withExpiry } = useOwnSaying();
  const [card, setCard] = useState(NO_CARD);
  const [wants, setWants] = useState<MethodKind>('card');
  const kind = own.bank === null ? 'card' : own.takesCards ? wants : 'bank account';
  const [bank, setBank] = useState(NO_BANK);
  const [bankFaults, setBankFaults] = useState<{ iban?: string; holder?: string }>({});
  const [faults, setFaults] = useState<CardFaults>({});
  const [busy, setBusy] = useState<'pay' | 'card' | null>(null);
  const [said, setSays] = useState<{ good: boolean; text: string } | null>(null);
  const became = useCameBack(path, onDone);
  const says = said ?? (became && sayBecame(became, words));
  // One wish to pay has one key, however often the button is pressed before it is answered.
  const key = useRef(crypto.randomUUID());

  const act = async (wish: 'pay' | 'card', work: () => Promise<OwnPaid>) => {
    setBusy(wish);
    setSays(null);
    try {
      const { charged } = await work();
      setSays(sayCharged(charged, wish === 'pay' ? '' : sayGiven(kind, own.card !== null, words), words));
      if (wish === 'card') {
        setCard(NO_CARD);
        setBank(NO_BANK);
      }
      key.current = crypto.randomUUID();
      onDone();
    } catch (error) {
      const problem = error instanceof Problem ? error : null;
      const ofToken = problem?.at('/token');
      const number = problem?.at('/card/number') ?? (kind === 'card' ? ofToken : undefined);
      const expires = problem?.at('/card/expires') ?? problem?.at('/token/expires');
      const nameOnCard = problem?.at('/token/holder');
      const iban = problem?.at('/bank/iban') ?? (kind === 'bank account' ? ofToken : undefined);
      const holder = problem?.at('/bank/holder');
      if (number || expires || nameOnCard) setFaults({ number, expires, holder: nameOnCard });
      else if (iban || holder) setBankFaults({ ...(iban ? { iban } : {}), ...(holder ? { holder } : {}) });
      else setSays({ good: false, text: problem?.message ?? words.didNotWork });
    } finally {
      setBusy(null);
    }
  };
  const pay = () => act('pay', () => post<OwnPaid>(`${path}/pay`, {}, { 'Idempotency-Key': key.current }));
  const change = () => {
    if (kind === 'bank account') {
      const wrong = faultsOfBank(bank, words.bank);
      setBankFaults(wrong);
      if (Object.keys(wrong).length > 0) return;
      void act('card', async () =>
        post<OwnPaid>(`${path}/card`, { kind, token: await tokenForBank(own.bank, bank) }),
      );
      return;
    }
    const found = faultsOfCard(card, own.businessDate, own.gateway, words.card);
    const entry = entryOf(card);
    setFaults(found);
    if (Object.keys(found).length > 0 || entry === null) return;
    void act('card', async () =>
      post<OwnPaid>(`${path}/card`, { token: await tokenForCard(own.gateway, entry, own.businessDate) }),
    );
  };
  const canPay = own.card?.state === 'usable';
  const isFirst = own.card === null;
  const does =
    kind === 'bank account'
      ? words.giveBank
      : isFirst
        ? words.giveCard
        : own.card?.expires === null
          ? words.payByCard
          : words.changeCard;
  return (
    <>
      <Text role="status" color={says?.good ? 'collected' : 'declined'} fontWeight="600">
        {says?.text ?? ''}
      </Text>
      <OwnUnderWay own={own} path={path} />
      {owed !== '' && (
        <OwnPart title={words.open(owed)}>
          {own.debts
            .filter(({ underWay }) => !underWay)
            .map((debt) => (
              <Line
                key={debt.number}
                left={words.invoiceDue(debt.number, date(debt.dueOn))}
                pdf={`${path}/invoices/${debt.id}/document.pdf`}
                right={amount(debt.owed, debt.currency)}
              />
            ))}
          {canPay && (
            <Button mt="3" w="full" data-main loading={busy === 'pay'} disabled={own.readOnly} onClick={pay}>
              {words.payNow(owed, own.card?.says ?? '')}
            </Button>
          )}
          <OwnTransfer own={own} path={path} />
        </OwnPart>
      )}
      <OwnPart title={titleOfCard(own, owed, words)}>
        {isFirst && own.collects === 'automatic' && <Text mb="3">{words.noCardYet}</Text>}
        {own.card && own.methods.length < 2 && (
          <Text mb="3">{words.now(withExpiry(own.card), own.card.state === 'usable')}</Text>
        )}
        <OwnMethods own={own} path={path} onDone={onDone} />
        {own.bank && own.takesCards && (
          <CardOrBank kind={kind} onChange={setWants} label={words.whatIsGiven} says={words.kinds} />
        )}
        {kind === 'card' ? (
          <CardFields
            card={card}
            onChange={setCard}
            faults={faults}
            gateway={own.gateway}
            practice={false}
            words={words.card}
          />
        ) : (
          <Suspense fallback={<Text color="muted">{words.loading}</Text>}>
            <BankFields
              bank={bank}
              onChange={setBank}
              faults={bankFaults}
              gateway={own.bank}
              practice={false}
              words={words.bank}
            />
          </Suspense>
        )}
        <Text mt="2" fontSize="13px">
          {words.byGiving(kind, own.agreed[kind])}
        </Text>
        <Button
          mt="3"
          w="full"
          variant={canPay && owed !== '' ? 'outline' : 'solid'}
          {...(canPay && owed !== '' ? { 'data-second': true } : { 'data-main': true })}
          loading={busy === 'card'}
          disabled={own.readOnly}
          onClick={change}
        >
          {owed === '' ? does : words.andPay(does, owed)}
        </Button>
      </OwnPart>
    </>
  );
}
