import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useForm, useWatch, type FieldPath } from 'react-hook-form';
import type { Joined, PublicPage, SignUpPageInput } from '../../server/signUp/messages.ts';
import { post, Problem, withQuery } from '../api/client.ts';
import { tokenForBank, tokenForCard } from '../api/gateway.ts';
import { entryOf } from '../parts/card.ts';
import { Choose } from './Choose.tsx';
import {
  amountOf,
  choiceOf,
  emptyFor,
  fieldAt,
  isAllowed,
  messageOf,
  planOf,
  quantityOf,
  type Filled,
} from './filled.ts';
import { Html } from './Html.tsx';
import { isTaken, Pay } from './Pay.tsx';
import { useSaying } from './saying.ts';
import { Summary } from './Summary.tsx';
import { useQuote } from './useQuote.ts';
import { reach, visit } from './visit.ts';
import { Who } from './Who.tsx';

/** Comes while the bank is being asked. */
const loadThanks = () => import('./Thanks.tsx');
const Thanks = lazy(() => loadThanks().then((part) => ({ default: part.Thanks })));

interface Props {
  readonly page: PublicPage;
  readonly rehearsal: string;
  /** The page is still being written: it is looked at, and nobody joins. */
  readonly draft: SignUpPageInput | null;
  readonly firstRate: string | undefined;
  /** Something was changed while it was filled in. */
  readonly onChanged: () => void;
}

/** The page as it is filled in, with what it comes to beside it. */
export function JoinForm({ page, rehearsal, draft, firstRate, onChanged }: Props) {
  const { words } = useSaying();
  const begins = page.rates.some(({ id }) => id === firstRate) ? firstRate : undefined;
  const form = useForm<Filled>({ defaultValues: emptyFor(page, begins), mode: 'onSubmit' });
  const [joined, setJoined] = useState<{ joined: Joined; email: string } | null>(null);
  const [says, setSays] = useState('');
  const saysAt = useRef<HTMLParagraphElement>(null);
  const filled = useWatch({ control: form.control }) as Filled;
  const quoted = useQuote(page.key, questionOf(page, filled), { rehearsal, draft });
  const counts = rehearsal === '' && draft === null;
  const reached = (step: 0 | 1 | 2 | 3) => counts && reach(page.key, step);
  useEffect(() => void (counts && reach(page.key, 0)), [counts, page.key]);
  useCodeFaults(form, page, filled, quoted.problem);
  if (joined)
    return (
      <Suspense fallback={null}>
        <Thanks page={page} {...joined} />
      </Suspense>
    );

  const send = async (typed: Filled) => {
    if (quoted.problem !== null) return tell(quoted.problem, typed);
    if (quoted.quote === null) return;
    setSays('');
    void loadThanks().catch(() => undefined);
    try {
      const { quote } = quoted;
      const { pays } = typed;
      const entry = pays === 'card' ? entryOf(typed.card) : null;
      const message = messageOf(page, typed, {
        ...{ visit, quote },
        ...(entry ? { cardToken: await tokenForCard(quote.gateway, entry, page.today) } : {}),
        ...(pays === 'bank debit' ? { bankToken: await tokenForBank(quote.bank, typed.bank) } : {}),
      });
      const path = withQuery(`/api/join/${encodeURIComponent(page.key)}/joining`, { rehearsal });
      setJoined({ joined: await post<Joined>(path, message), email: typed.customer.email });
      window.scrollTo(0, 0);
    } catch (error) {
      tell(error instanceof Problem ? error : new Problem(0, words.away, []), typed);
    }
  };
  const tell = (problem: Problem, typed: Filled) => {
    const pointers = problem.faults.map(({ pointer }) => pointer);
    if (problem.status === 409 && (pointers.includes('/shown') || pointers.includes('/agreed'))) {
      // What is agreed to is shown as it is now; nobody joins for anything else.
      quoted.anew();
      onChanged();
      setSays(words.changed);
    } else {
      let first = true;
      for (const { pointer, detail } of problem.faults) {
        // Some browsers fill what nobody sees: it is emptied, and joining again is enough.
        if (pointer === '/website') form.setValue('website', '');
        const name = fieldAt(page, typed, pointer);
        if (name === null) continue;
        form.setError(name as FieldPath<Filled>, { message: detail }, { shouldFocus: first });
        first = false;
      }
      setSays(problem.message);
      // The field that is to be mended has the focus already.
      if (!first) return;
    }
    saysAt.current?.focus();
  };
  const { isSubmitting, errors } = form.formState;
  const missing = Object.keys(errors).length;
  return (
    <form
      noValidate
      onSubmit={(event) => void form.handleSubmit(send)(event)}
      onChange={() => reached(1)}
      className="page"
    >
      <div className="sheet">
        <h1>{page.title}</h1>
        {page.pictures.length > 0 && (
          <div className="pictures">
            {page.pictures.map((at) => (
              <img key={at} src={at} alt="" />
            ))}
          </div>
        )}
        <Html text={page.text} />
        <Choose page={page} form={form} />
        <CodeField page={page} form={form} />
        <div onFocus={() => reached(2)}>
          <Who page={page} form={form} />
        </div>
        <div onFocus={() => reached(3)}>
          <Pay page={page} form={form} quote={quoted.quote} />
        </div>
      </div>
      <aside>
        <Summary page={page} quoted={quoted} />
        <p ref={saysAt} tabIndex={-1} className={says ? 'error' : ''} role={says ? 'alert' : undefined}>
          {says || (missing > 0 && form.formState.isSubmitted ? words.lookAgain(missing) : '')}
        </p>
        <button
          type="submit"
          disabled={draft !== null || isSubmitting || quoted.busy || !isTaken(filled.pays, quoted.quote)}
        >
          {isSubmitting ? words.joining : page.labels.join || words.labels.join}
        </button>
      </aside>
    </form>
  );
}

/** A code is used at once, so that what it takes off is seen before anything is agreed to. */
function CodeField({
  page,
  form,
}: {
  readonly page: PublicPage;
  readonly form: ReturnType<typeof useForm<Filled>>;
}) {
  const { words } = useSaying();
  const [typed, setTyped] = useState('');
  const codes = form.watch('codes');
  if (!page.codes) return null;
  const error = (form.formState.errors as { code?: { message?: string } }).code?.message;
  const use = () => {
    const code = typed.trim();
    if (code === '' || codes.length >= 5) return;
    form.setValue('codes', [...codes.filter((one) => one !== code), code]);
    setTyped('');
  };
  return (
    <div className="field">
      <label htmlFor="code">
        {words.fields.code} <span className="quiet">({words.optional})</span>
      </label>
      <div className="row">
        <input
          id="code"
          type="text"
          autoComplete="off"
          maxLength={40}
          value={typed}
          aria-invalid={error !== undefined}
          aria-describedby={error ? 'code-error' : undefined}
          onChange={({ target }) => setTyped(target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter') return;
            event.preventDefault();
            use();
          }}
        />
        <button type="button" className="second" onClick={use}>
          {words.apply}
        </button>
      </div>
      {codes.map((code) => (
        <p key={code}>
          {code}{' '}
          <button
            type="button"
            className="plain"
            aria-label={`× ${code}`}
            onClick={() =>
              form.setValue(
                'codes',
                codes.filter((one) => one !== code),
              )
            }
          >
            ×
          </button>
        </p>
      ))}
      {error && (
        <p className="error" id="code-error" role="alert">
          {error}
        </p>
      )}
    </div>
  );
}

/** What is asked of the server: what was chosen, and by which taxes; null while something of it cannot be read. */
function questionOf(page: PublicPage, filled: Filled): object | null {
  const rate = page.rates.find(({ id }) => id === filled.rateId);
  if (!rate) return null;
  const amount = rate.chosen ? amountOf(page, filled, rate) : null;
  if (rate.chosen && (amount === null || !isAllowed(amount, rate))) return null;
  if (rate.counted && page.quantityMost !== null && quantityOf(page, filled) === null) return null;
  const isGoods = planOf(page, rate)?.isGoods ?? false;
  const place = isGoods && filled.elsewhere ? filled.shipping : filled.customer;
  const asksCountry = page.ask.country !== 'no' || isGoods;
  const { answers: _, ...choice } = choiceOf(page, filled);
  return {
    choice,
    country: asksCountry ? place.country : '',
    region: place.region,
    pays: filled.pays === 'later' ? 'card' : filled.pays,
  };
}

/** What is wrong with what was chosen is said beside it while it is being chosen; a code that is not taken is taken away. */
function useCodeFaults(
  form: ReturnType<typeof useForm<Filled>>,
  page: PublicPage,
  filled: Filled,
  problem: Problem | null,
): void {
  useEffect(() => {
    if (problem === null) return;
    for (const { pointer, detail } of problem.faults) {
      const code = /^\/choice\/codes\/(\d+)$/.exec(pointer)?.[1];
      const name = fieldAt(page, filled, pointer);
      if (name === null) continue;
      if (code !== undefined)
        form.setValue(
          'codes',
          filled.codes.filter((_, i) => i !== Number(code)),
        );
      form.setError(name as FieldPath<Filled>, { message: detail });
    }
    // It is what was answered that is looked at, not what is typed meanwhile.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [problem]);
}
