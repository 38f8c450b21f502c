import { useEffect, useRef } from 'react';
import type { Joined, PublicPage } from '../../server/signUp/messages.ts';
import { leaveTo } from './framed.ts';
import { Html } from './Html.tsx';
import { useSaying } from './saying.ts';

interface Props {
  readonly page: PublicPage;
  readonly joined: Joined;
  readonly email: string;
}

/** What was charged, what comes, and what the business gives to whoever has joined. */
export function Thanks({ page, joined, email }: Props) {
  const { words, amount, date } = useSaying();
  const { charged, currency, coming, trialEnds, after, documents, redirect, own } = joined;
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  // The business has a page of its own for what comes now; a rehearsal stays.
  useEffect(() => void (redirect !== '' && own !== null && leaveTo(redirect)), [redirect, own]);
  const [next] = coming;
  const says = () => {
    if (!charged) return words.nothingCharged;
    const sum = amount(charged.amount, currency);
    switch (charged.outcome) {
      case 'collected':
        return words.charged(sum, charged.method);
      case 'under way':
        return words.underWay(sum);
      case 'to confirm':
        return words.toConfirm(sum);
      case 'by hand':
        return words.byHand(sum);
      case 'declined':
        return words.notCollected(sum);
    }
  };
  return (
    <div className="sheet thanks">
      <h1 ref={heading} tabIndex={-1}>
        {page.labels.thanks || words.labels.thanks}
      </h1>
      <p role="status">
        <strong>{says()}</strong>{' '}
        {trialEnds !== null && trialEnds > page.today && words.freeUntil(date(trialEnds))}{' '}
        {next && words.next(amount(next.due, currency), date(next.dueOn))}
      </p>
      {own !== null && <p>{words.letter(email)}</p>}
      <Html text={after} />
      {documents.length > 0 && (
        <>
          <h2>{words.toRead}</h2>
          <ul>
            {documents.map(({ name, at }) => (
              <li key={at}>
                <a href={at} download>
                  {name}
                </a>
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="row">
        {redirect !== '' && (
          <button type="button" onClick={() => leaveTo(redirect)}>
            {words.goOn}
          </button>
        )}
        {own !== null && (
          <a href={own} target="_blank" rel="noreferrer">
            {words.ownPage}
          </a>
        )}
      </p>
    </div>
  );
}
