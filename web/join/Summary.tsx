import { formatDay, toDay } from '../../core/dates/day.ts';
import type { PublicPage, Quote, QuotedPart } from '../../server/signUp/messages.ts';
import { ThreadLine } from '../parts/ThreadLine.tsx';
import { useSaying } from './saying.ts';
import type { Quoted } from './useQuote.ts';

/** So many charges are listed; what goes on says so. */
const LISTED = 4;
/** The thread shows so many charges, and at most so many days. */
const DRAWN = 6;
const DAYS = 400;

function lastOf(today: string, dues: Quote['dues']): string {
  const most = formatDay(toDay(today) + DAYS);
  const last = dues[Math.min(DRAWN, dues.length) - 1]?.dueOn ?? most;
  const after = formatDay(toDay(last) + 14);
  return after < most ? after : most;
}

/** What is agreed to: the thread, what is paid at once, what the trial means, and every coming charge with its date. */
export function Summary({ page, quoted }: { readonly page: PublicPage; readonly quoted: Quoted }) {
  const { words, amount, date } = useSaying();
  const { quote, busy, problem } = quoted;
  return (
    <section className="summary" aria-labelledby="summary" aria-busy={busy}>
      <h2 id="summary">{words.summary}</h2>
      {!quote && <p role="status">{problem ? problem.message : words.computing}</p>}
      {quote && (
        <>
          <p className="now" role="status">
            {quote.now === '0' ? words.nothingToday : words.today(amount(quote.now, quote.currency))}
          </p>
          {quote.starts > page.today && <p>{words.startsOn(date(quote.starts))}</p>}
          {quote.trialEnds !== null && <p>{words.freeUntil(date(quote.trialEnds))}</p>}
          {quote.dues.length > 1 && (
            <ThreadLine
              thread={{
                ...quote.thread,
                // In the words of the page.
                marks: quote.thread.marks.map((mark) => ({ ...mark, says: date(mark.date) })),
              }}
              from={page.today}
              to={lastOf(page.today, quote.dues)}
              today={page.today}
              label={words.dues}
            />
          )}
          {quote.dues.length > 0 && (
            <>
              <h3>{words.dues}</h3>
              <table>
                <tbody>
                  {quote.dues.slice(0, LISTED).map(({ dueOn, due }, i) => (
                    <tr key={`${dueOn}${i}`}>
                      <th scope="row">
                        {date(dueOn)}
                        {i === 0 && <First parts={quote.first} currency={quote.currency} />}
                      </th>
                      <td>{amount(due, quote.currency)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {quote.ends === null && quote.dues.length > LISTED && <p className="quiet">{words.goesOn}</p>}
            </>
          )}
          {quote.ends !== null && quote.dues.length > 1 && <p>{words.ends(date(quote.ends))}</p>}
          {quote.inAll !== null && quote.dues.length > 1 && (
            <p>{words.inAll(amount(quote.inAll, quote.currency))}</p>
          )}
          {quote.taxes.map((percent) => (
            <p key={percent} className="quiet">
              {words.taxIn(percent)}
            </p>
          ))}
          {page.placesLeft !== null && <p className="quiet">{words.placesLeft(page.placesLeft)}</p>}
          {page.until !== null && <p className="quiet">{words.until(date(page.until))}</p>}
        </>
      )}
    </section>
  );
}

/** What a first payment is made of, where that is not simply the price of a period. */
function First({ parts, currency }: { readonly parts: readonly QuotedPart[]; readonly currency: string }) {
  const { words, amount, date } = useSaying();
  const say = ({ what, name, quantity, days, until }: QuotedPart) => {
    const counted = quantity > 1 ? `${quantity} × ${name}` : name;
    switch (what) {
      case 'setup':
        return words.setUp;
      case 'once':
        return words.oncePart(counted);
      case 'trial':
        return words.trialPart(days);
      case 'stub':
        return words.stubPart(counted, days, date(until));
      case 'line':
        return counted;
    }
  };
  return parts.map((part, i) => (
    <span key={i} className="quiet part">
      {say(part)}: {amount(part.amount, currency)}
    </span>
  ));
}
