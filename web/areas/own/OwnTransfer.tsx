import { Button, Text } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import { Navigate, useLocation } from 'react-router';
import type { OwnWords } from '../../../core/words/ownPage/words.ts';
import { ownWords } from '../../../core/words/ownPage/wordsOf.ts';
import { isPageLanguage, type PageLanguage } from '../../../core/words/signUp/languages.ts';
import type { OwnPage, OwnPaid } from '../../../server/customers/ownMessages.ts';
import { post, Problem } from '../../api/client.ts';
import { CustomerSheet } from '../../parts/CustomerSheet.tsx';
import { OwnPart } from './OwnPart.tsx';
import { useOwnSaying } from './ownSaying.ts';

/** Under this the page that somebody was sent away from is known to their browser alone: whoever sends them back is not told. */
const WENT_FROM = 'went from';

/** The language that a browser asks for, where no customer is known yet. */
function languageOfBrowser(): PageLanguage {
  const code = navigator.language.slice(0, 2).toLowerCase();
  return isPageLanguage(code) ? code : 'en';
}

/** Where a payer comes back to: goes on to their own page, which asks what became of the payment. */
export function CameBack() {
  const token = sessionStorage.getItem(WENT_FROM);
  if (token !== null) return <Navigate to={`/own/${token}`} replace state={{ cameBack: true }} />;
  return (
    <CustomerSheet business="" look={null}>
      <Text>{ownWords(languageOfBrowser()).transfer.back}</Text>
    </CustomerSheet>
  );
}

/** What became of a payment at the bank's own page, once somebody came back from it; null before. */
export function useCameBack(path: string, onDone: () => void): OwnPaid['charged'] | null {
  const { state } = useLocation() as { readonly state: { readonly cameBack?: boolean } | null };
  const cameBack = state?.cameBack === true;
  const [became, setBecame] = useState<OwnPaid['charged'] | null>(null);
  const asked = useRef(false);
  useEffect(() => {
    if (!cameBack || asked.current) return;
    asked.current = true;
    post<OwnPaid>(`${path}/transfer/outcome`)
      .then(({ charged }) => setBecame(charged))
      .catch(() => setBecame([{ invoice: '', outcome: 'under way' }]))
      .finally(onDone);
  }, [cameBack, path, onDone]);
  return became;
}

/** What became of what was to be paid at the bank's own page. */
export function sayBecame(
  charged: OwnPaid['charged'],
  { transfer: words }: OwnWords,
): { good: boolean; text: string } | null {
  const is = (wanted: string) => charged.some(({ outcome }) => outcome === wanted);
  if (is('collected')) return { good: true, text: words.reached };
  if (is('declined')) return { good: false, text: words.notMade };
  // It stands below, with the way back to the bank's page.
  if (is('waits for the cardholder')) return { good: false, text: words.notConfirmed };
  if (is('left')) return { good: false, text: words.notPaid };
  if (charged.length === 0) return null;
  return {
    good: true,
    text: words.unknown,
  };
}

/** What is being collected already, so that nobody pays it a second time; and what their bank asks them to confirm. */
export function OwnUnderWay({ own, path }: { readonly own: OwnPage; readonly path: string }) {
  const { busy, says, go } = useGoToBank(path);
  const { words, amount, date } = useOwnSaying();
  const { transfer } = words;
  return own.debts
    .filter(({ underWay }) => underWay)
    .map(({ id, number, owed, currency, confirmBy }) =>
      confirmBy === null ? (
        <Text key={id} mb="3">
          {transfer.collecting(number, amount(owed, currency))}
        </Text>
      ) : (
        <OwnPart key={id} title={transfer.confirmTitle(amount(owed, currency))}>
          <Text>{transfer.confirmAsk(number, date(confirmBy))}</Text>
          <Button
            mt="3"
            w="full"
            data-main
            loading={busy === id}
            disabled={own.readOnly || busy !== null}
            onClick={() => void go('confirmation', id)}
          >
            {transfer.confirm(amount(owed, currency))}
          </Button>
          <Text mt="2" fontSize="13px">
            {transfer.sentOn}
          </Text>
          <Refused says={says} />
        </OwnPart>
      ),
    );
}

/** Sends somebody to a page of the bank's, and remembers where from. */
function useGoToBank(path: string) {
  const { words } = useOwnSaying();
  const [busy, setBusy] = useState<string | null>(null);
  const [says, setSays] = useState('');
  const go = async (what: 'transfer' | 'confirmation', invoiceId: string) => {
    setBusy(invoiceId);
    setSays('');
    try {
      const { url } = await post<{ url: string }>(`${path}/${what}`, { invoiceId });
      sessionStorage.setItem(WENT_FROM, path.split('/').at(-1) ?? '');
      window.location.assign(url);
    } catch (error) {
      setSays(error instanceof Problem ? error.message : words.didNotWork);
      setBusy(null);
    }
  };
  return { busy, says, go };
}

function Refused({ says }: { readonly says: string }) {
  if (says === '') return null;
  return (
    <Text role="alert" color="declined">
      {says}
    </Text>
  );
}

/** The way to the bank's own page, for each invoice that can be paid there. */
export function OwnTransfer({ own, path }: { readonly own: OwnPage; readonly path: string }) {
  const { busy, says, go } = useGoToBank(path);
  const { words, amount } = useOwnSaying();
  const { transfer } = words;
  const payable = own.debts.filter(({ id }) => own.transfers.includes(id));
  if (payable.length === 0) return null;
  return (
    <>
      {payable.map(({ id, number, owed, currency }) => (
        <Button
          key={id}
          mt="3"
          w="full"
          variant="outline"
          data-second
          loading={busy === id}
          disabled={own.readOnly || busy !== null}
          onClick={() => void go('transfer', id)}
        >
          {transfer.pay(amount(owed, currency), payable.length > 1 ? number : null)}
        </Button>
      ))}
      <Text mt="2" fontSize="13px">
        {transfer.says}
      </Text>
      <Refused says={says} />
    </>
  );
}
